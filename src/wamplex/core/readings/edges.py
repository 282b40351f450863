"""Readings at edges: stair-steps, halos, softness."""

from __future__ import annotations

import numpy as np

from wamplex.core.base.lazy_imports import ndimage
from wamplex.core.readings.full_reference import DoublePlane
from wamplex.core.readings.reading import ReadingResult
from wamplex.core.readings.reading_input import ReadingInput

# Gradient, in 8-bit levels a source pixel, from which a place counts as an edge.
_EDGE_LEVELS = 12.0
_CLEAR_DIRECTION = 0.6
_LONGEST_EDGE_SOURCE_PX = 8


def stair_steps(reading_input: ReadingInput) -> ReadingResult:
    """How much the direction of edges jitters along them, in degrees.

    The direction of the gradient at the scale of half a source pixel is compared with that of the
    structure tensor smoothed over two source pixels; mean over clear edges, weighted by their strength.
    Stair-steps turn the fine direction to and fro while the coarse one stays.
    """
    factor = max(reading_input.factor, 1.0)
    fine_x, fine_y = _gradient(reading_input.luma, 0.35 * factor)
    xx, xy, yy = (
        ndimage.gaussian_filter(product, 2.0 * factor)
        for product in (fine_x * fine_x, fine_x * fine_y, fine_y * fine_y)
    )
    spread = np.hypot(xx - yy, 2 * xy)
    clear = spread / (xx + yy + 1e-9) > _CLEAR_DIRECTION
    along = 0.5 * np.arctan2(2 * xy, xx - yy)
    across_part = np.abs(-np.sin(along) * fine_x + np.cos(along) * fine_y)
    strength = np.hypot(fine_x, fine_y)
    edge = clear & (strength * factor > _EDGE_LEVELS)
    angle = np.degrees(np.arctan2(across_part, np.sqrt(np.maximum(strength**2 - across_part**2, 0))))
    trace = np.where(edge, angle, 0.0)
    weight = strength * edge
    total = float(weight.sum())
    return ReadingResult(float((trace * weight).sum() / total) if total > 0 else 0.0, trace)


def ringing(reading_input: ReadingInput) -> ReadingResult:
    """How far the result leaves the range of the source pixels around it, mean over edges, in levels."""
    minimum, maximum = reading_input.local_range
    beyond = np.maximum(reading_input.result - maximum, minimum - reading_input.result).max(axis=2) * 255.0
    trace = np.maximum(beyond, 0.0).astype(np.float64)
    factor = max(reading_input.factor, 1.0)
    near = ((maximum - minimum).max(axis=2) * 255 > _EDGE_LEVELS) & (
        ndimage.maximum_filter(_strength(reading_input.plain_luma, factor), round(5 * factor)) > _EDGE_LEVELS
    )
    return ReadingResult(float(trace[near].mean()) if near.any() else 0.0, trace)


def edge_softness(reading_input: ReadingInput) -> ReadingResult:
    """Mean width of edges in result pixels (Marziliano, Dufaux, Winkler and Ebrahimi 2002).

    Along rows and columns, from the local minimum to the local maximum around each edge pixel; edge pixels
    are the maxima of the gradient across the edge. Only where the plain enlargement has an edge too, lest
    noise pass for narrow edges. Noise on an edge still ends it early: of noisy results it reads too narrow.
    """
    factor = max(reading_input.factor, 1.0)
    longest = round(_LONGEST_EDGE_SOURCE_PX * factor)
    edge = ndimage.maximum_filter(_strength(reading_input.plain_luma, factor) > 2 * _EDGE_LEVELS, round(factor) + 1)
    trace = np.zeros_like(reading_input.luma)
    widths = []
    for plane, view, known in ((reading_input.luma, trace, edge), (reading_input.luma.T, trace.T, edge.T)):
        rows, columns, width = _edge_widths(plane, known, longest)
        widths.append(width)
        view[rows, columns] = np.maximum(view[rows, columns], width)
    every = np.concatenate(widths)
    return ReadingResult(float(every.mean()) if len(every) else 0.0, trace)


def _edge_widths(plane: DoublePlane, edge: np.ndarray, longest: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Rows, columns and widths of the edges, among the known, that cross the rows of a plane."""
    slope = np.zeros_like(plane)
    slope[:, 1:-1] = (plane[:, 2:] - plane[:, :-2]) / 2
    steep = np.abs(slope)
    threshold = max(2.0, float(steep.mean() + steep.std()))
    peak = steep >= threshold
    peak[:, 1:-1] &= (steep[:, 1:-1] >= steep[:, :-2]) & (steep[:, 1:-1] > steep[:, 2:])
    peak &= edge
    peak[:, :longest] = peak[:, -longest:] = False
    rows, columns = np.nonzero(peak)
    rising = np.sign(slope[rows, columns])
    width = np.zeros(len(rows))
    for direction in (-1, 1):
        going = np.ones(len(rows), bool)
        for step in range(longest):
            here = plane[rows, columns + direction * step]
            following = plane[rows, np.clip(columns + direction * (step + 1), 0, plane.shape[1] - 1)]
            going &= (following - here) * rising * direction > 0
            if not going.any():
                break
            width += going
    return rows, columns, width


def blur_effect(reading_input: ReadingInput) -> ReadingResult:
    """The blur effect of Crete, Dolmiere, Ladret and Nicolas (2007) of the luma, in percent; 0 is sharp.

    How little the differences of neighbours fall when the luma is blurred by a mean of 11 pixels, along the
    axis where it falls less.
    """
    retained_sharpness, sharp = zip(*(_remaining_sharpness(reading_input.luma, axis) for axis in (0, 1)), strict=True)
    inside = (slice(2, -1), slice(2, -1))
    shares = [
        float(k[inside].sum()) / max(float(s[inside].sum()), 1e-9)
        for k, s in zip(retained_sharpness, sharp, strict=True)
    ]
    return ReadingResult(100 * max(shares), np.maximum(*retained_sharpness))


def _remaining_sharpness(plane: DoublePlane, axis: int, size: int = 11) -> tuple[DoublePlane, DoublePlane]:
    """Differences along an axis before and after blurring."""
    blurred = ndimage.uniform_filter1d(plane, size, axis=axis)
    sharp = np.abs(ndimage.sobel(plane, axis=axis))
    after = np.abs(ndimage.sobel(blurred, axis=axis))
    return np.minimum(sharp, after), sharp


def _gradient(plane: DoublePlane, sigma: float) -> tuple[DoublePlane, DoublePlane]:
    across = ndimage.gaussian_filter(plane, sigma, order=(0, 1))
    down = ndimage.gaussian_filter(plane, sigma, order=(1, 0))
    return across, down


def _strength(plane: DoublePlane, factor: float) -> DoublePlane:
    """Gradient in levels a source pixel."""
    across, down = _gradient(plane, 0.5 * factor)
    result: DoublePlane = np.hypot(across, down) * factor
    return result
