"""Resampling along other axes: constants, order, reduction, borders."""

from __future__ import annotations

import numpy as np
import pytest

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture
from wamplex.core.upscale.stages.kernels import BILINEAR, CATMULL_ROM, LANCZOS3, MITCHELL, Kernel
from wamplex.core.upscale.stages.resample import ResampleStage
from wamplex.core.upscale.stages.rotation import RotationStage, rotation_placement
from wamplex.core.upscale.stages.stage import SourceStage

KERNELS = [BILINEAR, CATMULL_ROM, MITCHELL, LANCZOS3, None]


def stage_of(
    source: SourceStage, degrees: float, crop: Window, size: tuple[int, int], kernel: Kernel | None
) -> RotationStage:
    own = (source.width, source.height)
    return RotationStage(source, rotation_placement(own, degrees, crop, own, size), *size, kernel)


def straightened(
    pixels: np.ndarray, degrees: float, kernel: Kernel | None, crop: Window | None = None, scale: float = 1.0
) -> np.ndarray:
    height, width = pixels.shape[:2]
    crop = crop or Window(0, 0, width, height)
    size = (round(crop.width * scale), round(crop.height * scale))
    source = SourceStage(Picture(pixels))
    stage = stage_of(source, degrees, crop, size, kernel)
    return stage.render(Window(0, 0, *size), Progress())


@pytest.mark.parametrize("kernel", KERNELS)
@pytest.mark.parametrize("degrees", [-33.0, 1.0, 45.0])
@pytest.mark.parametrize("scale", [0.3, 1.0, 2.6])
def test_constants_stay_constant_beyond_the_border_too(kernel: Kernel | None, degrees: float, scale: float) -> None:
    made = straightened(np.full((31, 44, 3), 0.37, np.float32), degrees, kernel, scale=scale)
    assert np.abs(made - 0.37).max() < 1e-5


@pytest.mark.parametrize("kernel", KERNELS[:4])
@pytest.mark.parametrize("scale", [0.5, 1.0, 3.0])
def test_without_an_angle_it_is_the_plain_resampling(kernel: Kernel, scale: float, photo: np.ndarray) -> None:
    pixels = photo[:60, :80].astype(np.float32) / np.float32(255)
    size = (round(80 * scale), round(60 * scale))
    plain = ResampleStage(SourceStage(Picture(pixels)), *size, kernel).render(Window(0, 0, *size), Progress())
    made = straightened(pixels, 0.0, kernel, scale=scale)
    inner = (slice(12, -12), slice(12, -12))  # at the border one goes on, the other is cut off
    assert np.abs(made[inner] - plain[inner]).max() < 1e-5


def test_it_turns_clockwise() -> None:
    """A mark right of the middle comes to lie lower right."""
    pixels = np.zeros((101, 101, 1), np.float32)
    pixels[48:53, 88:93] = 1
    made = straightened(pixels, 30, BILINEAR)[..., 0]
    row, column = (float(np.average(np.arange(101), weights=made.sum(axis=axis))) for axis in (1, 0))
    assert (column - 50, row - 50) == pytest.approx((40 * np.cos(np.radians(30)), 40 * np.sin(np.radians(30))), abs=0.2)


def test_there_and_back_is_nearly_the_picture(photo: np.ndarray) -> None:
    pixels = photo.astype(np.float32) / np.float32(255)
    back = straightened(straightened(pixels, 17, LANCZOS3), -17, LANCZOS3)
    inner = (slice(40, -40), slice(50, -50))
    assert np.abs(back[inner] - pixels[inner]).mean() < 0.01


def test_reduction_is_antialiased() -> None:
    """A grid at the limit of the source is grey at a third of its size, not a pattern."""
    grid = ((np.indices((120, 120)).sum(axis=0)) % 2).astype(np.float32)[..., None]
    made = straightened(grid, 10, MITCHELL, Window(20, 20, 80, 80), scale=1 / 3)
    assert np.abs(made - 0.5).max() < 0.03


def test_nearest_makes_no_new_values(photo: np.ndarray) -> None:
    pixels = (photo[:40, :50] // 64).astype(np.float32)
    made = straightened(pixels, 12, None, scale=2.5)
    assert set(np.unique(made)) <= set(np.unique(pixels))


def test_large_windows_are_put_together_exactly(photo: np.ndarray) -> None:
    pixels = photo.astype(np.float32) / np.float32(255)
    source = SourceStage(Picture(pixels))
    stage = stage_of(source, 4.0, Window(10, 10, 130, 100), (2600, 2000), CATMULL_ROM)
    whole = stage.render(Window(0, 0, 2600, 2000), Progress())
    part = Window(2000, 100, 200, 150)  # across the place where pieces meet
    assert np.array_equal(stage.render(part, Progress()), whole[100:250, 2000:2200])
