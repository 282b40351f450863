"""What joining several frames brings, on simulated bursts of photographs that the program was not made with."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray
from tests.core.frames.bursts import Move, compressed, frame, hand_held, luma_psnr, photograph, written

from wamplex.core.base.errors import RecipeError, SourceChangedError
from wamplex.core.base.window import Window
from wamplex.core.frames import joined_stage
from wamplex.core.frames.fit import SceneFit, fit_frames
from wamplex.core.geometry.framing import Framing
from wamplex.core.intake.read import read_picture
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.render.render import render

Frames = list[NDArray[np.uint8]]


def fitted(frames: Frames, folder: Path, values: Values | None = None) -> tuple[Picture, SceneFit]:
    first, *others = written(frames, folder)
    reference = read_picture(first)
    return reference, fit_frames(reference, others, read_picture, values)


def recipe(fit: SceneFit | None, values: Values | None = None, factor: float = 2.0, **more: object) -> Recipe:
    """Joined; without a fit the same enlargement of the reference alone."""
    base = TrialSpec(upscaler="mender" if fit is None else "concert", values=values or Values())
    frames = None if fit is None else fit.frame_set
    return Recipe(base=base, factor=factor, frames=frames, **more)  # type: ignore[arg-type]


def whole(picture: Picture, of: Recipe) -> Pixels:
    size = of.size(picture.width, picture.height)
    return render(picture, of, Window(0, 0, size.width_px, size.height_px))


def burst(scene: NDArray[np.float64], moves: Sequence[Move], noise: float = 0.0, factor: int = 2) -> Frames:
    return [frame(scene, there, factor, noise, seed) for seed, there in enumerate(moves)]


def gain_db(scene: NDArray[np.float64], frames: Frames, folder: Path, noise: float = 0.0) -> float:
    """What joining brings over the reference alone."""
    values = Values(noise=2 * noise)
    picture, fit = fitted(frames, folder, values)
    joined, alone = (luma_psnr(whole(picture, recipe(f, values)), scene) for f in (fit, None))
    return joined - alone


@pytest.mark.parametrize(
    ("name", "noise", "count", "min_gain_db"),
    [("astronaut", 0.0, 9, 2.3), ("coffee", 4.0, 9, 2.0), ("cat", 4.0, 3, 1.1), ("cat", 10.0, 9, 1.0)],
)
def test_frames_bring_detail_that_was_there(
    name: str, noise: float, count: int, min_gain_db: float, tmp_path: Path
) -> None:
    scene = photograph(name)
    assert gain_db(scene, burst(scene, hand_held(count), noise), tmp_path, noise) > min_gain_db


def test_compressed_frames_bring_detail_too(tmp_path: Path) -> None:
    scene = photograph("astronaut")
    frames = [compressed(pixels, 92) for pixels in burst(scene, hand_held(9))]
    assert gain_db(scene, frames, tmp_path) > 1.6


def test_something_that_moves_is_no_worse_than_in_one_frame(tmp_path: Path) -> None:
    """A bright disk crosses the scene; where it passes, the reference alone speaks."""
    scene, frames = photograph("coffee"), Frames()
    rows, columns = np.mgrid[:256, :256]
    scenes = []
    for number, there in enumerate(hand_held(6)):
        disk = np.hypot(columns - 100 - 7 * number, rows - 128) < 16
        scenes.append(np.where(disk[..., np.newaxis], [240.0, 60.0, 40.0], scene))
        frames.append(frame(scenes[-1], there, noise=2, seed=number))
    picture, fit = fitted(frames, tmp_path)
    path = np.s_[100:156, 72:162]
    errors = [np.abs(whole(picture, recipe(f)) * 255 - scenes[0])[path] for f in (fit, None)]
    assert np.sqrt(np.mean(errors[0] ** 2)) < np.sqrt(np.mean(errors[1] ** 2))
    assert np.quantile(errors[0], 0.999) < 1.1 * np.quantile(errors[1], 0.999)


def test_exposures_may_differ(tmp_path: Path) -> None:
    scene = photograph("astronaut")
    frames = burst(scene, hand_held(5), 2.0)
    darker = [np.rint(f * 0.8 + 4).astype(np.uint8) if n % 2 else f for n, f in enumerate(frames)]
    assert gain_db(scene, darker, tmp_path, 2.0) > 0.8


def test_windows_equal_the_whole_and_framing_only_places(tmp_path: Path) -> None:
    scene = photograph("astronaut", 400)
    picture, fit = fitted(burst(scene, hand_held(3), 3.0), tmp_path)
    joined = recipe(fit)
    everything = whole(picture, joined)
    for window in (Window(250, 130, 20, 150), Window(0, 380, 400, 20), Window(17, 3, 1, 1)):
        part = everything[window.y : window.bottom, window.x : window.right]
        np.testing.assert_allclose(render(picture, joined, window), part, atol=1 / 65535)
    turned = recipe(fit, framing=Framing(turns=1, flipped=True))
    np.testing.assert_allclose(whole(picture, turned), np.rot90(everything, -1)[:, ::-1], atol=1e-6)
    assert whole(picture, recipe(fit, factor=1.5)).shape == (300, 300, 3)


def test_no_seams_between_blocks(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Small blocks against one block for all: at most a twentieth of a level."""
    picture, fit = fitted(burst(photograph("astronaut"), hand_held(5), 4.0), tmp_path)
    results = []
    for side in (32, 256):
        monkeypatch.setitem(joined_stage._BLOCK_PX, 2, side)
        results.append(whole(picture, recipe(fit)) * 255)
    assert np.abs(results[0] - results[1]).max() < 0.05


def test_frames_that_do_not_fit_are_refused_with_the_reason(tmp_path: Path) -> None:
    scene = photograph("astronaut")
    frames = burst(scene, hand_held(3))
    frames[2] = frame(photograph("cat"), Move())
    frames.append(frames[1][:-10])
    _, fit = fitted(frames, tmp_path)
    assert [f.refused for f in fit.frames] == [None, "shows another scene", "is 128 × 118 px, not 128 × 128"]
    assert fit.frame_set is not None
    assert [f.file for f in fit.frame_set.frames] == ["frame-1.png"]


def test_a_recipe_makes_the_same_pixels_again_and_knows_its_frames(tmp_path: Path) -> None:
    scene = photograph("cat")
    picture, fit = fitted(burst(scene, hand_held(3)), tmp_path)
    again = Recipe.from_json(recipe(fit).model_dump_json())
    window = Window(40, 40, 50, 30)
    np.testing.assert_array_equal(render(picture, again, window), render(picture, recipe(fit), window))
    written([frame(scene, Move(1, 1))] * 2, tmp_path)
    with pytest.raises(SourceChangedError, match="is not the frame that was aligned"):
        render(read_picture(tmp_path / "frame-0.png"), again, window)


def test_grey_frames_are_joined_too(tmp_path: Path) -> None:
    scene = photograph("cat").mean(axis=2, keepdims=True).repeat(3, axis=2)
    grey = [pixels[..., 0] for pixels in burst(scene, hand_held(3), 2.0)]
    assert gain_db(scene[..., :1].repeat(3, axis=2), grey, tmp_path, 2.0) > 0.5


def test_even_frames_are_refused(tmp_path: Path) -> None:
    _, fit = fitted([np.full((60, 60, 3), 90, np.uint8)] * 2, tmp_path)
    assert fit.frame_set is None
    assert fit.left_out == ("frame-1.png shows another scene",)


def test_one_frame_alone_is_no_concert(tmp_path: Path) -> None:
    (path,) = written([frame(photograph("cat"), Move())], tmp_path)
    with pytest.raises(RecipeError, match="two or more frames"):
        whole(read_picture(path), Recipe(base=TrialSpec(upscaler="concert"), factor=2.0))
