"""Turning, straightening and cropping: exact, once, and the same in every window."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import ndimage

from wamplex.core.base.errors import SizeError
from wamplex.core.base.window import Window
from wamplex.core.geometry.framing import Crop, Framing, crop_is_inside, horizon_angle, largest_inner_crop
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.render.render import render
from wamplex.core.trial.framed_picture import frame_picture
from wamplex.core.trial.registry import UPSCALERS


@pytest.fixture
def picture(photo: np.ndarray) -> Picture:
    return Picture(photo[:60, :80].astype(np.float32) / np.float32(255))


def whole(picture: Picture, recipe: Recipe) -> np.ndarray:
    size = recipe.size(picture.width, picture.height)
    return render(picture, recipe, Window(0, 0, size.width_px, size.height_px))


def test_the_largest_square_in_a_square_turned_by_45_degrees() -> None:
    """Its diagonal is the square's side: side / sqrt(2), plane geometry."""
    found = largest_inner_crop(1000, 1000, 45, 1.0)
    assert found.width == found.height == pytest.approx(1000 / np.sqrt(2), abs=2)


@pytest.mark.parametrize("degrees", [-45, -7.3, 0.4, 12, 30])
@pytest.mark.parametrize(("width", "height"), [(400, 300), (301, 999), (57, 57)])
def test_no_corner_of_a_straightened_picture_is_empty(degrees: float, width: int, height: int) -> None:
    found = largest_inner_crop(width, height, degrees, width / height)
    assert crop_is_inside(found, width, height, degrees)
    larger = Window(found.x - 2, found.y - 2, found.width + 4, found.height + 4)
    assert not crop_is_inside(larger, width, height, degrees)


@pytest.mark.parametrize("turns", [0, 1, 2, 3])
@pytest.mark.parametrize("flipped", [False, True])
def test_turned_results_are_results_turned(turns: int, flipped: bool, picture: Picture) -> None:
    recipe = Recipe(base=TrialSpec(upscaler="bicubic"), factor=2.5)
    expected = np.rot90(whole(picture, recipe), -turns)
    expected = expected[:, ::-1] if flipped else expected
    framing = Framing.model_validate({"turns": turns, "flipped": flipped})
    made = whole(picture, recipe.replace(framing=framing))
    assert np.allclose(made, expected, atol=1e-6)


def test_a_crop_is_that_part_of_the_whole(picture: Picture) -> None:
    framing = Framing(crop=Crop(x=13, y=7, width=40, height=30))
    cropped = whole(picture, Recipe(base=TrialSpec(upscaler="nearest"), factor=3, framing=framing))
    assert np.array_equal(cropped, whole(picture, Recipe(base=TrialSpec(upscaler="nearest"), factor=3))[21:111, 39:159])
    smooth = whole(picture, Recipe(base=TrialSpec(upscaler="lanczos"), factor=3, framing=framing))
    part = whole(picture, Recipe(base=TrialSpec(upscaler="lanczos"), factor=3))[21:111, 39:159]
    assert np.allclose(smooth[12:-12, 12:-12], part[12:-12, 12:-12], atol=1e-6)


@pytest.mark.parametrize("degrees", [0.5, -8.0, 30.0])
def test_straightening_agrees_with_scipy(degrees: float, picture: Picture) -> None:
    """SciPy's map_coordinates of order 1 is bilinear sampling; rotation clockwise, rows growing downwards."""
    framing = Framing(straighten_deg=degrees)
    kept = framing.window(80, 60)
    made = whole(picture, Recipe(base=TrialSpec(upscaler="bilinear"), factor=3, framing=framing))
    turn = np.radians(degrees)
    y, x = np.mgrid[0 : made.shape[0], 0 : made.shape[1]]
    across = kept.x + (x + 0.5) / 3 - 40
    down = kept.y + (y + 0.5) / 3 - 30
    places = [
        30 - np.sin(turn) * across + np.cos(turn) * down - 0.5,
        40 + np.cos(turn) * across + np.sin(turn) * down - 0.5,
    ]
    expected = ndimage.map_coordinates(picture.pixels[..., 1].astype(np.float64), places, order=1, mode="nearest")
    assert np.allclose(made[..., 1], expected, atol=1e-5)


def test_a_straightened_plane_stays_a_plane() -> None:
    """Catmull-Rom reproduces straight ramps (Keys 1981), in whatever direction they are sampled."""
    rows, columns = np.mgrid[0:60, 0:80]
    ramp = Picture((0.2 + 0.004 * columns + 0.003 * rows)[..., None].astype(np.float32))
    made = whole(ramp, Recipe(base=TrialSpec(upscaler="bicubic"), factor=2, framing=Framing(straighten_deg=11)))[
        8:-8, 8:-8, 0
    ]
    assert np.abs(np.diff(made, n=2, axis=0)).max() < 1e-5
    assert np.abs(np.diff(made, n=2, axis=1)).max() < 1e-5


@pytest.mark.parametrize("key", [u.key for u in UPSCALERS])
@pytest.mark.parametrize("framing", [Framing(straighten_deg=3.5), Framing(turns=1, shrink_first=1.6)])
def test_windows_of_framed_pictures_equal_the_whole(key: str, framing: Framing, picture: Picture) -> None:
    recipe = Recipe(base=TrialSpec(upscaler=key), factor=2.7, framing=framing)
    everything = whole(picture, recipe)
    for window in (Window(0, 0, 17, 9), Window(50, 31, 40, 55)):
        part = everything[window.y : window.bottom, window.x : window.right]
        assert np.abs(render(picture, recipe, window) - part).max() <= 1 / 65535


def test_an_anchor_holds_on_to_a_straightened_picture(picture: Picture) -> None:
    framing = Framing(straighten_deg=6)
    plain = whole(picture, Recipe(base=TrialSpec(upscaler="mitchell"), factor=3, framing=framing))
    anchored = whole(
        picture,
        Recipe(base=TrialSpec(upscaler="mitchell", values=Values(back_projection_levels=0)), factor=3, framing=framing),
    )
    assert np.abs(plain - anchored).mean() > 1e-4  # sharper, and lying in the same place:
    assert np.corrcoef(plain[..., 1].ravel(), anchored[..., 1].ravel())[0, 1] > 0.98


def test_shrinking_first_undoes_an_earlier_enlargement(picture: Picture) -> None:
    doubled = Picture(whole(picture, Recipe(base=TrialSpec(upscaler="bicubic"), factor=2)))
    direct = whole(picture, Recipe(base=TrialSpec(upscaler="vellum"), factor=4))
    again = whole(doubled, Recipe(base=TrialSpec(upscaler="vellum"), factor=2))
    undone = whole(doubled, Recipe(base=TrialSpec(upscaler="vellum"), factor=2, framing=Framing(shrink_first=2)))
    assert np.abs(undone - direct).mean() < 0.25 * np.abs(again - direct).mean()


def test_what_is_framed_is_the_source_of_the_result(picture: Picture) -> None:
    framing = Framing(turns=3, straighten_deg=-4, crop=Crop(x=10, y=12, width=30, height=40))
    at_its_scale = whole(picture, Recipe(base=TrialSpec(upscaler="bicubic"), factor=1, framing=framing))
    assert np.allclose(frame_picture(picture, framing).pixels, at_its_scale, atol=1e-6)


def test_a_line_drawn_along_the_horizon_becomes_level() -> None:
    assert horizon_angle(0, 0, 100, -10) == pytest.approx(np.degrees(np.arctan(0.1)))
    assert horizon_angle(100, -10, 0, 0) == pytest.approx(np.degrees(np.arctan(0.1)))
    assert horizon_angle(0, 0, 5, 100) == pytest.approx(np.degrees(np.arctan(0.05)))


def test_a_crop_over_the_edge_is_refused_in_words() -> None:
    with pytest.raises(SizeError, match="reaches over the edge"):
        Framing(crop=Crop(x=50, y=0, width=40, height=40)).checked(80, 60)
    with pytest.raises(SizeError, match="reaches over the edge"):
        Framing(straighten_deg=5, crop=Crop(x=0, y=0, width=80, height=60)).checked(80, 60)
