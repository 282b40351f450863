"""Finds how a frame lies over the reference: phase correlation, then weighted Gauss-Newton from coarse to fine.

After Lucas and Kanade (1981) and Baker and Matthews (2004); the start after Kuglin and Hines (1975).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.filters import gaussian
from wamplex.core.base.lazy_imports import cv2, ndimage
from wamplex.core.base.progress import Progress
from wamplex.core.frames.motion import Homography, move, scaled, translation

Plane = NDArray[np.float32]
_COARSEST_PX = 160  # longer side of the smallest level
_STEPS = {"coarse": 12, "fine": 8}
# Detail finer than this is aliased, each frame otherwise.
_SMOOTH_PX = 1.0
_TILE_PX, _TILES, _MARGIN_PX = 48, 160, 4
_SETTLED_PX = 0.002
_OUTLIER = 4.7  # Tukey's biweight at 95 % efficiency (Huber 1981), in deviations
_ROBUST_SCALE = 1.4826  # median absolute deviation to standard deviation of a normal distribution


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


def align(reference: Plane, frame: Plane, progress: Progress | None = None) -> Alignment:
    """Find how a frame of the same size lies over the reference.

    Parameters
    ----------
    reference : (H, W) float32, luma in levels, 0 to 255
    frame : (H, W) float32, the same of the frame
    progress : cancelling it raises `Cancelled`

    Returns
    -------
    Where pixels of the reference lie in the frame, exposure and how much alike they are.
    """
    progress = progress or Progress()
    levels = _pyramid(reference, frame)
    motion = _shift(*levels[-1])
    fit = Alignment(motion, 1.0, 0.0, 0.0)
    for number, (still, moved) in enumerate(reversed(levels)):
        progress.check()
        if number > 0:
            fit = Alignment(scaled(fit.motion, 2.0), fit.gain, fit.offset, 0.0)
        fit = _refine(still, moved, fit, _STEPS["coarse" if number < len(levels) - 1 else "fine"])
    return fit


def _pyramid(reference: Plane, frame: Plane) -> list[tuple[Plane, Plane]]:
    """Both at full size, then halved again and again; smoothed against aliasing."""
    levels = [(gaussian(reference, _SMOOTH_PX), gaussian(frame, _SMOOTH_PX))]
    while max(levels[-1][0].shape) > _COARSEST_PX:
        height, width = (n - n % 2 for n in levels[-1][0].shape)
        halved = [
            cv2.resize(p[:height, :width], (width // 2, height // 2), interpolation=cv2.INTER_AREA) for p in levels[-1]
        ]
        levels.append((halved[0], halved[1]))
    return levels


def _shift(reference: Plane, frame: Plane) -> Homography:
    window = cv2.createHanningWindow(reference.shape[::-1], cv2.CV_32F)
    centred = [np.ascontiguousarray(p - p.mean()) for p in (reference, frame)]
    (x, y), _ = cv2.phaseCorrelate(*centred, window)
    return translation(x, y)


@dataclass(frozen=True)
class _Places:
    """Pixels of the reference that are compared: places, values and slopes."""

    x: NDArray[np.float64]
    y: NDArray[np.float64]
    value: NDArray[np.float64]
    steepest: NDArray[np.float64]  # (N, 10): how the difference changes with motion, gain and offset

    @property
    def count(self) -> int:
        return self.x.size


def _places(reference: Plane) -> _Places:
    """Tiles with the most structure, spread over the picture."""
    across, down = (cv2.Sobel(reference, cv2.CV_32F, *order, ksize=3, scale=1 / 8) for order in ((1, 0), (0, 1)))
    height, width = reference.shape
    side = min(_TILE_PX, height, width)
    rows, columns = max(height // side, 1), max(width // side, 1)
    trimmed = np.s_[: rows * side, : columns * side]
    strength = (across[trimmed] ** 2 + down[trimmed] ** 2).reshape(rows, side, columns, side).mean(axis=(1, 3))
    inner = np.zeros_like(reference, bool)
    for place in np.argsort(-strength, axis=None, kind="stable")[:_TILES]:
        row, column = divmod(int(place), columns)
        inner[row * side : (row + 1) * side, column * side : (column + 1) * side] = True
    inner[:_MARGIN_PX] = inner[-_MARGIN_PX:] = False
    inner[:, :_MARGIN_PX] = inner[:, -_MARGIN_PX:] = False
    y, x = (n.astype(np.float64) for n in np.nonzero(inner))
    g_x, g_y, value = (p[inner].astype(np.float64) for p in (across, down, reference))
    u, v = _normalised(x, y, reference.shape)
    along = g_x * u + g_y * v
    steepest = np.stack(
        [g_x * u, g_x * v, g_x, g_y * u, g_y * v, g_y, -along * u, -along * v, value, np.ones_like(value)], 1
    )
    return _Places(x, y, value, steepest)


def _normalised(
    x: NDArray[np.float64], y: NDArray[np.float64], shape: tuple[int, ...]
) -> tuple[NDArray[np.float64], ...]:
    half = max(shape) / 2
    return (x - (shape[1] - 1) / 2) / half, (y - (shape[0] - 1) / 2) / half


def _refine(reference: Plane, frame: Plane, start: Alignment, steps: int) -> Alignment:
    """Gauss-Newton steps on all parameters at once, with outliers weighted down."""
    places = _places(reference)
    height, width = reference.shape
    half = max(height, width) / 2
    into = np.array([[1 / half, 0, -(width - 1) / 2 / half], [0, 1 / half, -(height - 1) / 2 / half], [0, 0, 1.0]])
    spline = ndimage.spline_filter(frame.astype(np.float64), order=3, mode="mirror")
    motion, gain, offset, correlation = start.motion, start.gain, start.offset, 0.0
    for _ in range(steps):
        x, y = move(motion, places.x, places.y)
        seen = (x >= 1) & (y >= 1) & (x <= width - 2) & (y <= height - 2)
        if seen.sum() < max(200, places.count // 5):
            return Alignment(start.motion, 1.0, 0.0, 0.0)
        value = ndimage.map_coordinates(spline, [y[seen], x[seen]], order=3, mode="mirror", prefilter=False)
        still = places.value[seen]
        difference = value - (gain * still + offset)
        weight = _biweight(difference)
        steepest = places.steepest[seen] * np.array([gain] * 8 + [-1.0, -1.0])
        weighted = steepest * weight[:, None]
        change = np.linalg.lstsq(weighted.T @ steepest, -weighted.T @ difference, rcond=1e-12)[0]
        step = np.array(
            [[1 + change[0], change[1], change[2]], [change[3], 1 + change[4], change[5]], [change[6], change[7], 1.0]]
        )
        # The change is in units of half the longer side, but for what the slopes, taken in pixels, divide it by.
        step[:2] = np.eye(3)[:2] + (step[:2] - np.eye(3)[:2]) / half
        step[2, :2] /= half
        motion = motion @ np.linalg.inv(into) @ step @ into
        motion = motion / motion[2, 2]
        gain, offset = gain + change[8], offset + change[9]
        correlation = float(np.corrcoef(value, still)[0, 1])
        if np.abs(change[:6]).max() < _SETTLED_PX:
            break
    return Alignment(motion, float(gain), float(offset), correlation)


def _biweight(difference: NDArray[np.float64]) -> NDArray[np.float64]:
    scale = _ROBUST_SCALE * float(np.median(np.abs(difference))) + 0.3
    share = np.clip(difference / (_OUTLIER * scale), -1, 1)
    weight: NDArray[np.float64] = (1 - share**2) ** 2
    return weight
