"""Developing: cut-off lights, exposure, tones, on numbers that can be followed by hand."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from tests.cameras import CAMERA, chart, raw_file

from wamplex.core.base.progress import Progress
from wamplex.core.intake.read import read_picture
from wamplex.core.model.development import Development, Highlights
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.raw.developer import (
    blend_highlights,
    clip_highlights,
    reconstruct_highlights,
    roll_off_highlights,
)
from wamplex.core.raw.neutral_point import balance_from_neutral
from wamplex.core.raw.tone_curve import srgb_decode
from wamplex.core.trial.developed_picture import develop_picture, develop_small

LEVELS = np.array([2.0, 1.0, 1.5], np.float32)  # where red, green and blue are cut off after the balance


def pixel(*values: float) -> np.ndarray:
    return np.array([[values]], np.float32)


def test_cut_off_alike_lights_are_white() -> None:
    assert clip_highlights(pixel(1.8, 1.0, 1.4), LEVELS)[0, 0].tolist() == [1, 1, 1]
    assert np.array_equal(clip_highlights(pixel(0.8, 0.5, 0.9), LEVELS), pixel(0.8, 0.5, 0.9))


def test_blended_they_keep_their_light_and_stay_grey() -> None:
    darker, brighter = (blend_highlights(pixel(*p), LEVELS)[0, 0] for p in ((1.4, 1.0, 1.2), (1.8, 1.0, 1.4)))
    assert np.ptp(darker) == np.ptp(brighter) == 0
    assert 1 < darker[0] < brighter[0]


def test_rebuilt_a_cut_off_green_takes_over_from_red_and_blue() -> None:
    """Otherwise, a bright grey is magenta."""
    made = reconstruct_highlights(pixel(1.3, 1.0, 1.3), LEVELS)[0, 0]
    assert made == pytest.approx([1.3, 1.3, 1.3])
    assert np.array_equal(reconstruct_highlights(pixel(0.8, 0.5, 0.9), LEVELS), pixel(0.8, 0.5, 0.9))
    assert reconstruct_highlights(pixel(2.0, 1.0, 1.5), LEVELS)[0, 0] == pytest.approx([2, 2, 2])


def test_a_shoulder_begins_without_a_corner_and_ends_below_white() -> None:
    light = np.linspace(0, 4, 4001, dtype=np.float32)
    made = roll_off_highlights(light)
    steps = np.diff(made) / np.diff(light)
    assert np.array_equal(made[light <= 0.7], light[light <= 0.7])
    assert (np.abs(np.diff(steps)) < 0.01).all()
    assert (steps >= 0).all()
    assert (steps[light[1:] < 2] > 0).all()
    assert made[-1] <= 1


@pytest.fixture
def grey(tmp_path: Path) -> Picture:
    return read_picture(raw_file(tmp_path / "grey.dng", np.full((40, 60, 3), 0.09)))


def test_a_stop_is_twice_the_light(grey: Picture) -> None:
    plain, brighter = (
        develop_picture(grey, Recipe(development=Development(space="srgb", exposure_ev=stops))).pixels
        for stops in (0, 1)
    )
    assert srgb_decode(brighter).mean() == pytest.approx(2 * srgb_decode(plain).mean(), rel=1e-3)


@pytest.mark.parametrize("highlights", ["clip", "blend", "rebuild"])
def test_a_lamp_has_no_colour_of_its_own(tmp_path: Path, highlights: Highlights) -> None:
    """White light at four times the sensor's white: every channel is cut off, at levels far apart."""
    picture = read_picture(raw_file(tmp_path / "lamp.dng", np.full((40, 60, 3), 4.0)))
    wanted = Development(space="srgb", highlights=highlights, exposure_ev=-2)
    made = develop_picture(picture, Recipe(development=wanted)).pixels[8:-8, 8:-8]
    assert np.ptp(made.mean(axis=(0, 1))) < 0.02


def test_what_is_picked_becomes_grey(tmp_path: Path) -> None:
    blueish = np.full((40, 60, 3), 0.3) * np.array([0.7, 1.0, 1.4])
    picture = read_picture(raw_file(tmp_path / "a.dng", blueish))
    assert picture.raw is not None
    gains = balance_from_neutral(picture.raw, 0.5, 0.5)
    made = develop_picture(picture, Recipe(development=Development(space="srgb", neutral=gains))).pixels
    assert np.ptp(made.mean(axis=(0, 1))) < 0.004
    assert gains is not None
    assert gains[0] > CAMERA.gains[0]
    assert gains[1] < CAMERA.gains[2]


@pytest.mark.parametrize("level", [0.0005, 3.0])
def test_nothing_is_picked_where_nothing_can_be_told(tmp_path: Path, level: float) -> None:
    picture = read_picture(raw_file(tmp_path / "a.dng", np.full((40, 60, 3), level)))
    assert picture.raw is not None
    assert balance_from_neutral(picture.raw, 0.5, 0.5) is None


def test_developed_once_more_the_same_is_not_made_anew(grey: Picture) -> None:
    recipe = Recipe(development=Development(exposure_ev=0.5))
    assert develop_picture(grey, recipe).pixels is develop_picture(grey, recipe).pixels
    assert develop_picture(grey, Recipe()) is grey


def test_a_quick_look_is_about_what_is_made(tmp_path: Path) -> None:
    picture = read_picture(raw_file(tmp_path / "a.dng", 0.6 * chart(240, 160)))
    wanted = Development(space="srgb", exposure_ev=0.4)
    whole = develop_picture(picture, Recipe(development=wanted)).pixels
    look = develop_small(picture, wanted, 40, Progress())
    assert (look.width, look.height) == (80, 53)
    averaged = whole[:159].reshape(53, 3, 80, 3, 3).mean(axis=(1, 3))
    assert np.abs(look.pixels - averaged).mean() < 0.01
