"""What the screen shows of a result."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image, ImageCms

from wamplex.core.base.errors import Cancelled
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.icc import ADOBE_RGB, DISPLAY_P3, SRGB, make_profile
from wamplex.core.colour.screen_view import PLAIN, ScreenView
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.preview.result_preview import preview
from wamplex.core.readings.sampling import readings_at

NEAREST = Recipe(base=TrialSpec(upscaler="nearest"), factor=2.0)


def flat(red: float, green: float, blue: float, **more: object) -> Picture:
    return Picture(np.full((10, 10, 3), (red, green, blue), np.float32), **more)  # type: ignore[arg-type]


def test_reducing_averages_blocks() -> None:
    checks = np.indices((8, 8)).sum(axis=0) % 2
    picture = Picture(checks.astype(np.float32)[..., None])
    shown = preview(picture, NEAREST, Window(0, 0, 16, 16), reduce=4)
    assert shown.shape == (4, 4, 3)
    assert np.abs(shown.astype(int) - 128).max() <= 1


def test_incomplete_blocks_average_what_they_have() -> None:
    picture = Picture(np.full((5, 7, 3), 0.4, np.float32))
    shown = preview(picture, NEAREST, Window(0, 0, 14, 10), reduce=4)
    assert shown.shape == (3, 4, 3)
    assert (shown == 102).all()


def test_transparency_lies_on_white() -> None:
    alpha = np.full((10, 10), 0.5, np.float32)
    shown = preview(flat(0, 0, 0, alpha=alpha), NEAREST, Window(0, 0, 4, 4))
    assert np.abs(shown.astype(int) - 128).max() <= 1


def test_light_on_transparency_lies_on_black() -> None:
    """White ink on white could not be seen, so no trial of it could be judged."""
    alpha = np.zeros((10, 10), np.float32)
    alpha[2:5, 2:8] = 1
    ink = flat(1, 1, 1, alpha=alpha)
    shown = preview(ink, NEAREST, Window(0, 0, 20, 20))
    assert (shown[5, 5] == 255).all()
    assert (shown[15, 15] == 0).all()


def test_grey_is_shown_grey() -> None:
    shown = preview(Picture(np.full((4, 4, 1), 0.6, np.float32)), NEAREST, Window(0, 0, 8, 8))
    assert (shown == 153).all()


def test_wide_profiles_are_brought_to_the_screen() -> None:
    """The red of Display P3 (SMPTE RP 431-2) lies outside sRGB, so it is shown redder; greys stay grey."""
    red = preview(flat(0.8, 0, 0, profile=make_profile(DISPLAY_P3)), NEAREST, Window(0, 0, 2, 2))[0, 0]
    assert red[0] > 0.8 * 255
    assert red[1:].max() <= 3
    grey = preview(flat(0.5, 0.5, 0.5, profile=make_profile(DISPLAY_P3)), NEAREST, Window(0, 0, 2, 2))[0, 0]
    assert np.abs(grey.astype(int) - 128).max() <= 1


def test_adobe_rgb_middle_grey_has_its_srgb_value() -> None:
    """0.5 ** (563/256) = 0.2177 linear, which IEC 61966-2-1 encodes as 0.5041: level 128.5."""
    shown = preview(flat(0.5, 0.5, 0.5, profile=make_profile(ADOBE_RGB)), NEAREST, Window(0, 0, 2, 2))[0, 0]
    assert np.abs(shown.astype(float) - 128.5).max() <= 1


def test_cancelled_previews_end() -> None:
    progress = Progress()
    progress.cancel()
    with pytest.raises(Cancelled):
        preview(flat(0, 0, 0), NEAREST, Window(0, 0, 4, 4), 1, progress)


WIDE = Picture(np.full((8, 8, 3), (0.1, 0.9, 0.2), np.float32))


def test_a_screen_s_profile_changes_what_is_shown_and_nothing_that_is_measured() -> None:
    view = ScreenView(screen=make_profile(DISPLAY_P3))
    plain, wide = (preview(WIDE, NEAREST, Window(0, 0, 16, 16), view=v) for v in (PLAIN, view))
    # The same green has less red and green in a wider space; expected values from LittleCMS through Pillow.
    profiles = [ImageCms.getOpenProfile(io.BytesIO(make_profile(space))) for space in (SRGB, DISPLAY_P3)]
    transform = ImageCms.buildTransform(*profiles, "RGB", "RGB", ImageCms.Intent.RELATIVE_COLORIMETRIC)
    expected = ImageCms.applyTransform(Image.fromarray(plain), transform)
    assert np.abs(wide.astype(int) - np.asarray(expected)).max() <= 1
    assert np.abs(wide.astype(int) - plain).max() > 20
    before = readings_at(WIDE, NEAREST, ((0.5, 0.5),), Progress())
    preview(WIDE, NEAREST, Window(0, 0, 16, 16), view=view)
    assert readings_at(WIDE, NEAREST, ((0.5, 0.5),), Progress()) == before


def test_a_proof_shows_what_a_printer_can_make() -> None:
    wide = Picture(WIDE.pixels, profile=make_profile(ADOBE_RGB))
    small_gamut = ScreenView(screen=make_profile(ADOBE_RGB), proof=make_profile(SRGB))
    shown = preview(wide, NEAREST, Window(0, 0, 16, 16), view=small_gamut)[0, 0]
    without = preview(wide, NEAREST, Window(0, 0, 16, 16), view=ScreenView(screen=make_profile(ADOBE_RGB)))[0, 0]
    assert np.abs(without.astype(int) - np.rint(255 * WIDE.pixels[0, 0])).max() <= 1
    assert shown[0] > without[0] + 20  # sRGB has no green so pure


def test_grey_pictures_are_shown_in_any_view() -> None:
    grey = Picture(np.full((8, 8, 1), 0.5, np.float32), np.full((8, 8), 0.5, np.float32))
    shown = preview(grey, NEAREST, Window(0, 0, 16, 16), view=ScreenView(screen=make_profile(DISPLAY_P3)))
    assert shown.shape == (16, 16, 3)
    assert np.ptp(shown[0, 0].astype(int)) <= 1
