"""Profiles and conversions, against the standards and against Qt's and LittleCMS's own."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image, ImageCms
from PySide6.QtGui import QColorSpace

from wamplex.core.colour.convert import convert
from wamplex.core.colour.icc import ADOBE_RGB, DISPLAY_P3, SRGB, Space, adapted_primaries, make_profile

# ICC profile registry of color.org and Lindbloom's published D50-adapted matrices, columns r, g, b.
_PUBLISHED = {
    "srgb": (SRGB, [[0.4360, 0.3851, 0.1431], [0.2225, 0.7169, 0.0606], [0.0139, 0.0971, 0.7141]]),
    "adobe": (ADOBE_RGB, [[0.6097, 0.2053, 0.1492], [0.3111, 0.6257, 0.0632], [0.0195, 0.0609, 0.7446]]),
}


@pytest.mark.parametrize("name", _PUBLISHED)
def test_primaries_equal_the_published_ones(name: str) -> None:
    space, matrix = _PUBLISHED[name]
    assert np.abs(adapted_primaries(space) - matrix).max() < 4e-4


@pytest.mark.parametrize(
    ("space", "named"),
    [
        (SRGB, QColorSpace.NamedColorSpace.SRgb),
        (ADOBE_RGB, QColorSpace.NamedColorSpace.AdobeRgb),
        (DISPLAY_P3, QColorSpace.NamedColorSpace.DisplayP3),
    ],
)
def test_profiles_mean_the_same_as_qt_s(space: Space, named: QColorSpace.NamedColorSpace) -> None:
    theirs = bytes(QColorSpace(named).iccProfile().data())
    image = Image.fromarray(np.random.default_rng(1).integers(0, 256, (64, 64, 3), dtype=np.uint8))
    profiles = [ImageCms.ImageCmsProfile(io.BytesIO(p)) for p in (make_profile(space), theirs)]
    moved = ImageCms.profileToProfile(image, *profiles)
    assert moved is not None
    difference = np.abs(np.asarray(moved).astype(int) - np.asarray(image))
    # Near black a power curve is so steep that the 8-bit tables of LittleCMS differ by a few levels.
    assert difference.max() <= 3
    assert difference.mean() < 0.02


def test_conversion_agrees_with_littlecms() -> None:
    pixels = np.random.default_rng(2).integers(0, 256, (80, 80, 3), dtype=np.uint8)
    source, target = make_profile(DISPLAY_P3), make_profile(SRGB)
    ours = np.rint(convert(pixels.astype(np.float32) / np.float32(255), source, target) * 255)
    profiles = [ImageCms.ImageCmsProfile(io.BytesIO(p)) for p in (source, target)]
    theirs = ImageCms.profileToProfile(Image.fromarray(pixels), *profiles)
    difference = np.abs(ours - np.asarray(theirs))
    # libvips goes by way of a 16-bit Lab, which costs up to two levels in dark saturated colours.
    assert difference.max() <= 2
    assert difference.mean() < 0.2


def test_alpha_passes_a_conversion_untouched() -> None:
    pixels = np.random.default_rng(3).random((9, 9, 4), dtype=np.float32)
    moved = convert(pixels, make_profile(SRGB), make_profile(ADOBE_RGB))
    assert np.array_equal(moved[..., 3], pixels[..., 3])
