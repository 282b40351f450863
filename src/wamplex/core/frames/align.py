"""Finds how a frame lies over the reference: phase correlation, then weighted Gauss-Newton from coarse to fine.

After Lucas and Kanade (1981) and Baker and Matthews (2004); the start after Kuglin and Hines (1975).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.filters import block_means, gaussian
from wamplex.core.base.lazy_imports import cv2, ndimage
from wamplex.core.base.progress import Progress
from wamplex.core.frames.motion import Homography, move, normalised, scaled, translation
from wamplex.core.frames.robust import robust_deviation

Plane = NDArray[np.float32]
Numbers = NDArray[np.float64]
_COARSEST_PX = 160  # longer side of the smallest level
_COARSE_STEPS, _FINE_STEPS = 12, 8
# Detail finer than this is aliased, each frame otherwise.
_SMOOTH_PX = 1.0
_TILE_PX, _TILES, _MARGIN_PX = 48, 160, 4
_SETTLED_PX = 0.002
_OUTLIER = 4.7  # Tukey's biweight at 95 % efficiency (Huber 1981), in deviations
_ROUNDING_LEVELS, _EVEN_LEVELS = 0.3, 0.1
# A frame must see so many of the compared pixels, and such a share of them.
_MIN_PIXELS, _MIN_SHARE = 200, 0.2


@dataclass(frozen=True)
class Alignment:
    """How a frame lies over the reference.

    Attributes
    ----------
    motion : (3, 3) float64, from pixels of the reference to pixels of the frame
    gain, offset : the frame's luma is the reference's times the gain, plus the offset in levels
    correlation : of both lumas after aligning, -1 to 1
    """

    motion: Homography
    gain: float
    offset: float
    correlation: float


@dataclass(frozen=True, eq=False)
class _Level:
    """The reference at one size, with the pixels that are compared.

    Attributes
    ----------
    luma : (H, W) float32, smoothed against aliasing
    x, y, values : (N,), where the pixels lie, and their levels
    slopes : (N, 10), how the difference from a frame changes with motion, gain and offset
    """

    luma: Plane
    x: Numbers
    y: Numbers
    values: Numbers
    slopes: Numbers


class AlignmentReference:
    """What frames are aligned to, prepared once for all of them.

    Parameters
    ----------
    luma : (H, W) float32 in levels, 0 to 255
    """

    def __init__(self, luma: Plane) -> None:
        self.levels = [_prepare(plane) for plane in _pyramid(luma)]


def align(reference: AlignmentReference, frame: Plane, progress: Progress | None = None) -> Alignment:
    """Find how a frame of the same size lies over the reference.

    Parameters
    ----------
    reference : what it is aligned to
    frame : (H, W) float32, luma in levels, 0 to 255
    progress : cancelling it raises `Cancelled`

    Returns
    -------
    Where pixels of the reference lie in the frame, exposure and how much alike they are.
    """
    progress = progress or Progress()
    levels = list(zip(reference.levels, _pyramid(frame), strict=True))[::-1]
    fit = Alignment(_shift(levels[0][0].luma, levels[0][1]), 1.0, 0.0, 0.0)
    for number, (still, moved) in enumerate(levels):
        progress.check()
        if number > 0:
            fit = Alignment(scaled(fit.motion, 2.0), fit.gain, fit.offset, 0.0)
        fit = _refine(still, moved, fit, _FINE_STEPS if number == len(levels) - 1 else _COARSE_STEPS)
    return fit


def _pyramid(luma: Plane) -> list[Plane]:
    """At full size, smoothed against aliasing, then halved again and again."""
    levels = [gaussian(luma, _SMOOTH_PX)]
    while max(levels[-1].shape) > _COARSEST_PX:
        levels.append(block_means(levels[-1], 2))
    return levels


def _shift(reference: Plane, frame: Plane) -> Homography:
    window = cv2.createHanningWindow(reference.shape[::-1], cv2.CV_32F)
    centred = [np.ascontiguousarray(p - p.mean()) for p in (reference, frame)]
    (x, y), _ = cv2.phaseCorrelate(*centred, window)
    return translation(x, y)


def _prepare(luma: Plane) -> _Level:
    across, down = (cv2.Sobel(luma, cv2.CV_32F, *order, ksize=3, scale=1 / 8) for order in ((1, 0), (0, 1)))
    compared = _structured(across**2 + down**2)
    y, x = (n.astype(np.float64) for n in np.nonzero(compared))
    g_x, g_y, values = (p[compared].astype(np.float64) for p in (across, down, luma))
    (middle_x, middle_y), half = _middle(luma.shape), max(luma.shape) / 2
    u, v = (x - middle_x) / half, (y - middle_y) / half
    along = g_x * u + g_y * v
    of_motion = [g_x * u, g_x * v, g_x, g_y * u, g_y * v, g_y, -along * u, -along * v]
    return _Level(luma, x, y, values, np.stack([*of_motion, -values, -np.ones_like(values)], axis=1))


def _structured(strength: Plane) -> NDArray[np.bool_]:
    """Tiles with the most structure, spread over the picture, without its border."""
    height, width = strength.shape
    side = min(_TILE_PX, height, width)
    means = block_means(strength, side)
    chosen = np.zeros(strength.shape, bool)
    for place in np.argsort(-means, axis=None, kind="stable")[:_TILES]:
        row, column = divmod(int(place), means.shape[1])
        chosen[row * side : (row + 1) * side, column * side : (column + 1) * side] = True
    chosen[:_MARGIN_PX] = chosen[-_MARGIN_PX:] = False
    chosen[:, :_MARGIN_PX] = chosen[:, -_MARGIN_PX:] = False
    return chosen


def _middle(shape: tuple[int, ...]) -> tuple[float, float]:
    return (shape[1] - 1) / 2, (shape[0] - 1) / 2


def _refine(level: _Level, frame: Plane, start: Alignment, steps: int) -> Alignment:
    """Gauss-Newton steps on all parameters at once, with outliers weighted down."""
    height, width = frame.shape
    spline = ndimage.spline_filter(frame.astype(np.float64), order=3, mode="mirror")
    motion, gain, offset, correlation = start.motion, start.gain, start.offset, 0.0
    for _ in range(steps):
        x, y = move(motion, level.x, level.y)
        seen = (x >= 1) & (y >= 1) & (x <= width - 2) & (y <= height - 2)
        if seen.sum() < max(_MIN_PIXELS, level.x.size * _MIN_SHARE):
            return Alignment(start.motion, 1.0, 0.0, 0.0)
        values = ndimage.map_coordinates(spline, [y[seen], x[seen]], order=3, mode="mirror", prefilter=False)
        difference = values - (gain * level.values[seen] + offset)
        slopes = level.slopes[seen] * np.array([gain] * 8 + [1.0, 1.0])
        weighted = slopes * _biweight(difference)[:, np.newaxis]
        change = np.linalg.lstsq(weighted.T @ slopes, -weighted.T @ difference, rcond=1e-12)[0]
        motion = normalised(motion @ _small_motion(change[:8], frame.shape))
        gain, offset = gain + change[8], offset + change[9]
        correlation = _correlation(values, level.values[seen])
        if np.abs(change[:6]).max() < _SETTLED_PX:
            break
    return Alignment(motion, float(gain), float(offset), correlation)


def _small_motion(change: Numbers, shape: tuple[int, ...]) -> Homography:
    """A motion from what it moves the pixels by that lie half the longer side from the middle."""
    (middle_x, middle_y), half = _middle(shape), max(shape) / 2
    around_middle = np.array([[1 / half, 0, -middle_x / half], [0, 1 / half, -middle_y / half], [0, 0, 1.0]])
    step = np.eye(3) + np.append(change, 0.0).reshape(3, 3) / half
    return np.asarray(np.linalg.inv(around_middle) @ step @ around_middle, np.float64)


def _correlation(one: Numbers, other: Numbers) -> float:
    """0 where either is even."""
    even = min(one.std(), other.std()) < _EVEN_LEVELS
    return 0.0 if even else float(np.corrcoef(one, other)[0, 1])


def _biweight(difference: Numbers) -> Numbers:
    scale = robust_deviation(difference) + _ROUNDING_LEVELS
    share = np.clip(difference / (_OUTLIER * scale), -1, 1)
    weight: Numbers = (1 - share**2) ** 2
    return weight
