"""Readings on surfaces: noise, block marks, blotches."""

from __future__ import annotations

import numpy as np

from wamplex.core.base.lazy_imports import ndimage
from wamplex.core.readings.full_reference import DoublePlane
from wamplex.core.readings.reading import ReadingResult
from wamplex.core.readings.reading_input import ReadingInput, luma_levels

_BLOCK_PX = 8
# Gradient of the source, in levels a pixel, below which a place is smooth.
_SMOOTH_LEVELS = 4.0
# The mask of Immerkaer (1996); on white noise of sigma 1 it gives sigma 6.
_IMMERKAER = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], float)


def noise_luma(reading_input: ReadingInput) -> ReadingResult:
    """Standard deviation of the luma's noise at source resolution, in levels (Immerkaer 1996)."""
    shrunk, _ = reading_input.shrunk
    return _noise(reading_input, luma_levels(shrunk))


def noise_colour(reading_input: ReadingInput) -> ReadingResult:
    """The same of the colour differences, root of the mean of Cb's and Cr's variance (ITU-R BT.601)."""
    shrunk, _ = reading_input.shrunk
    luma = luma_levels(shrunk)
    blue = _noise(reading_input, (255 * shrunk[..., 2] - luma) * 0.564)
    red = _noise(reading_input, (255 * shrunk[..., 0] - luma) * 0.713)
    return ReadingResult(float(np.hypot(blue.value, red.value) / np.sqrt(2)), (blue.trace + red.trace) / 2)


def noise_wavelet(reading_input: ReadingInput) -> ReadingResult:
    """Median absolute diagonal Haar detail at source resolution over 0.6745, in levels.

    Donoho and Johnstone (1994); everywhere, so that fine texture counts too where there is much of it.
    """
    shrunk, _ = reading_input.shrunk
    rows, columns = (n // 2 * 2 for n in shrunk.shape[:2])
    p = luma_levels(shrunk[:rows, :columns])
    detail = np.abs(p[::2, ::2] - p[::2, 1::2] - p[1::2, ::2] + p[1::2, 1::2]) / 2
    trace = np.zeros(shrunk.shape[:2])
    trace[:rows, :columns] = detail.repeat(2, axis=0).repeat(2, axis=1)
    value = float(np.median(detail) / 0.6745) if detail.size else 0.0
    return ReadingResult(value, reading_input.at_result_size(trace))


def _noise(reading_input: ReadingInput, plane: DoublePlane) -> ReadingResult:
    """Where the plane is smooth; elsewhere texture would pass for noise."""
    detail = np.abs(ndimage.convolve(plane, _IMMERKAER, mode="nearest")) * np.sqrt(np.pi / 2) / 6
    smooth = _structure(luma_levels(reading_input.shrunk[1])) < _SMOOTH_LEVELS
    smooth[[0, -1]] = smooth[:, [0, -1]] = False
    trace = reading_input.at_result_size(ndimage.uniform_filter(detail, 5) * smooth)
    return ReadingResult(float(detail[smooth].mean()) if smooth.sum() > 30 else 0.0, trace)


def block_marks(reading_input: ReadingInput) -> ReadingResult:
    """Differences across the borders of 8-pixel blocks against those inside them, in levels.

    After Wang, Sheikh and Bovik (2002): mean step across the grid, which the enlargement has scaled, minus
    the mean step elsewhere, in source-pixel steps of the shrunk result; not below 0.
    """
    shrunk, _ = reading_input.shrunk
    luma = luma_levels(shrunk)
    inner = reading_input.shrunk_window
    trace = np.zeros_like(luma)
    excess = []
    for plane, view, start in ((luma, trace, inner.x), (luma.T, trace.T, inner.y)):
        if plane.shape[1] < 2 * _BLOCK_PX:
            continue
        # A step counts by its curvature, so that slopes that cross the grid do not.
        step = np.abs(np.diff(plane, axis=1))
        neighbours = np.full_like(step, np.nan)
        neighbours[:, 1:-1] = (step[:, :-2] + step[:, 2:]) / 2
        jump = step - neighbours
        on_grid = (np.arange(jump.shape[1]) + start + 1) % _BLOCK_PX == 0
        on_grid[[0, -1]] = False
        off_grid = ~on_grid
        off_grid[[0, -1]] = False
        excess.append(float(jump[:, on_grid].mean() - jump[:, off_grid].mean()))
        marked = np.where(on_grid[None], np.maximum(np.nan_to_num(jump), 0), 0)
        view[:, 1:] = np.maximum(view[:, 1:], marked)
        view[:, :-1] = np.maximum(view[:, :-1], marked)
    return ReadingResult(max(0.0, float(np.mean(excess))) if excess else 0.0, reading_input.at_result_size(trace))


def blotches(reading_input: ReadingInput) -> ReadingResult:
    """Unevenness and steps, in levels, that smooth places of the source did not have; own definition.

    The result shrunk back minus the source, freed of detail finer than two source pixels and of drift
    coarser than sixteen, where the source is smooth; root mean square.
    """
    shrunk, source = reading_input.shrunk
    difference = luma_levels(shrunk - source)
    band = ndimage.gaussian_filter(difference, 1.0) - ndimage.gaussian_filter(difference, 8.0)
    smooth = ndimage.binary_erosion(_structure(luma_levels(source)) < _SMOOTH_LEVELS, iterations=2)
    trace = reading_input.at_result_size(np.abs(band) * smooth)
    return ReadingResult(float(np.sqrt(np.mean(band[smooth] ** 2))) if smooth.sum() > 30 else 0.0, trace)


def _structure(plane: DoublePlane) -> DoublePlane:
    """Gradient over about three pixels, in levels a pixel."""
    result: DoublePlane = ndimage.gaussian_gradient_magnitude(plane, 1.5)
    return result
