"""Tessera: exact at every window, whatever the mosaic begins with and however it is framed."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from tests.cameras import chart, raw_file

from wamplex.core.base.errors import RecipeError
from wamplex.core.base.window import Window
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.intake.read import read_picture
from wamplex.core.model.development import Development
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.sensor_noise import SensorNoise
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.render.plan import plan
from wamplex.core.render.render import render
from wamplex.core.upscale.networks import mosaic_stage

PATTERNS = ((0, 1, 1, 2), (1, 0, 2, 1), (1, 2, 0, 1), (2, 1, 1, 0))
TESSERA = TrialSpec(upscaler="tessera")


def whole(picture: Picture, recipe: Recipe) -> np.ndarray:
    size = recipe.size(picture.width, picture.height)
    return render(picture, recipe, Window(0, 0, size.width_px, size.height_px))


@pytest.mark.parametrize("pattern", PATTERNS)
@pytest.mark.parametrize("factor", [1, 2, 2.5])
def test_any_window_is_that_of_the_whole(tmp_path: Path, pattern: tuple[int, int, int, int], factor: float) -> None:
    path = raw_file(tmp_path / "a.dng", chart(161, 115), pattern=pattern, noise=SensorNoise(1e-3, 1e-5))
    picture = read_picture(path)
    recipe = Recipe(base=TESSERA, factor=factor)
    made = whole(picture, recipe)
    for window in (Window(0, 0, 40, 30), Window(37, 51, 33, 21), Window(made.shape[1] - 20, 11, 20, 60)):
        part = render(picture, recipe, window)
        same = made[window.y : window.bottom, window.x : window.right]
        assert np.abs(part - same).max() <= 1 / 65535


def test_tiles_do_not_show(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    picture = read_picture(raw_file(tmp_path / "a.dng", chart(180, 140), noise=SensorNoise(1e-3, 1e-5)))
    recipe = Recipe(base=TESSERA, factor=2)
    at_once = whole(picture, recipe)
    monkeypatch.setattr(mosaic_stage, "tile_shape", lambda *_: (41, 37))
    assert np.abs(whole(picture, recipe) - at_once).max() <= 1 / 65535


@pytest.mark.parametrize("pattern", PATTERNS)
def test_colours_stay_in_their_place_whatever_the_mosaic_begins_with(
    tmp_path: Path, pattern: tuple[int, int, int, int]
) -> None:
    light = chart(120, 90)
    picture = read_picture(raw_file(tmp_path / "a.dng", light, pattern=pattern))
    recipe = Recipe(base=TESSERA, factor=1, development=Development(space="srgb"))
    made = whole(picture, recipe)
    row, column = light.shape[0] - made.shape[0], light.shape[1] - made.shape[1]
    truth = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)[row:, column:]
    # Flat parts and ramps; at the hard edges nobody knows.
    assert np.median(np.abs(made - truth)) < 0.02


def test_a_crop_shows_the_same_pixels(tmp_path: Path) -> None:
    picture = read_picture(raw_file(tmp_path / "a.dng", chart(150, 110), noise=SensorNoise(1e-3, 1e-5)))
    recipe = Recipe(base=TESSERA, factor=2)
    cropped = recipe.replace(framing=Framing(crop=Crop(x=31, y=17, width=60, height=50)))
    assert np.abs(whole(picture, cropped) - whole(picture, recipe)[34:134, 62:182]).max() <= 1 / 65535


def test_turned_and_flipped_it_is_the_same_picture(tmp_path: Path) -> None:
    picture = read_picture(raw_file(tmp_path / "a.dng", chart(), orientation=6))
    recipe = Recipe(base=TESSERA, factor=2)
    turned = recipe.replace(framing=Framing(turns=1, flipped=True))
    expected = np.rot90(whole(picture, recipe), -1)[:, ::-1]
    assert np.array_equal(whole(picture, turned), expected)


@pytest.mark.parametrize("pattern", PATTERNS)
def test_careful_it_makes_the_same_of_every_turn_and_every_window(
    tmp_path: Path, pattern: tuple[int, int, int, int]
) -> None:
    """A sensor with odd sides, the worst case: turned, its cells begin with another colour."""
    path = raw_file(tmp_path / "a.dng", chart(77, 58), pattern=pattern, noise=SensorNoise(1e-3, 1e-5), told=True)
    picture = read_picture(path)
    assert picture.raw is not None
    mosaic = picture.raw.mosaic
    assert mosaic is not None
    odd = replace(mosaic, values=mosaic.values[:57, :75])
    for turns, flipped in ((1, False), (2, True), (3, True)):
        turned = odd.turned(turns, flipped)
        light = np.rot90(odd.linear(Window(0, 0, 75, 57), (2.0, 1.0, 1.5)), -turns)
        expected = light[:, ::-1] if flipped else light
        assert np.array_equal(turned.linear(Window(0, 0, turned.width, turned.height), (2.0, 1.0, 1.5)), expected)
    recipe = Recipe(base=TrialSpec(upscaler="tessera", values=Values(self_ensemble=True)), factor=2)
    made = whole(picture, recipe)
    part = render(picture, recipe, Window(31, 17, 40, 30))
    assert np.abs(part - made[17:47, 31:71]).max() <= 1 / 65535
    assert 0 < np.abs(made - whole(picture, recipe.replace(base=TESSERA))).mean() < 0.02


def test_straightened_it_is_made_at_the_right_size(tmp_path: Path) -> None:
    picture = read_picture(raw_file(tmp_path / "a.dng", chart(150, 110)))
    recipe = Recipe(base=TESSERA, factor=2, framing=Framing(straighten_deg=4))
    planned = plan(picture, recipe)
    plain = whole(picture, recipe.replace(base=TrialSpec(upscaler="bicubic")))
    made = planned.render(Window(0, 0, planned.width, planned.height))
    assert made.shape == plain.shape
    assert np.abs(made - plain).mean() < 0.02  # it lies where the others lie


def test_told_of_no_noise_it_leaves_more_of_it(tmp_path: Path) -> None:
    flat = np.full((96, 128, 3), 0.1)
    picture = read_picture(raw_file(tmp_path / "a.dng", flat, noise=SensorNoise(4e-3, 4e-5), told=True))
    deviations = []
    for strength in (0, 50, 100):
        values = Values(sensor_noise=strength)
        recipe = Recipe(base=TrialSpec(upscaler="tessera", values=values), factor=1)
        deviations.append(float(whole(picture, recipe)[16:-16, 16:-16].std()))
    assert deviations[0] > deviations[1] > deviations[2]


def test_exposure_goes_into_the_network_and_comes_out_again(tmp_path: Path) -> None:
    """A clean picture is the same whether the light is doubled or the exposure."""
    recipe = Recipe(base=TESSERA, factor=1)
    brighter = recipe.replace(development=Development(exposure_ev=1))
    dim = read_picture(raw_file(tmp_path / "dim.dng", 0.25 * chart(), told=True))
    bright = read_picture(raw_file(tmp_path / "bright.dng", 0.5 * chart(), told=True))
    assert np.abs(whole(dim, brighter) - whole(bright, recipe)).mean() < 1e-3


def test_other_pictures_are_refused_in_words() -> None:
    with pytest.raises(RecipeError, match="raw file"):
        whole(Picture(np.zeros((20, 20, 3), np.float32)), Recipe(base=TESSERA))


def test_the_others_work_on_what_tessera_made_at_its_own_size(tmp_path: Path) -> None:
    picture = read_picture(raw_file(tmp_path / "a.dng", chart(), orientation=8))
    native = Recipe(base=TESSERA, factor=1)
    plain = Recipe(base=TrialSpec(upscaler="nearest"), factor=1, development=Development(method="tessera"))
    assert np.abs(whole(picture, plain) - whole(picture, native)).max() <= 1 / 65535
