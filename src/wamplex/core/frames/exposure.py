"""How a frame's exposure and white balance differ from the reference's."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.lazy_imports import cv2
from wamplex.core.frames.motion import Homography

_SIDE_PX = 400
_DARKEST, _LIGHTEST = 8.0, 247.0  # levels beyond which a channel may be clipped
_MIDDLE = 128.0
_LEAST_GAIN, _LEAST_SHIFT = 0.015, 0.5  # less, of the slope and at the middle level, is an error of measuring
_ROUNDS, _LIMIT = 5, 2.5  # outliers are left out beyond so many deviations
_LEAST_PIXELS = 100


def exposure(
    reference: NDArray[np.float32], frame: NDArray[np.float32], motion: Homography
) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Fit a line to the levels of each channel.

    Parameters
    ----------
    reference, frame : (H, W, C) float32 in levels, of the same size
    motion : (3, 3), from pixels of the reference to pixels of the frame

    Returns
    -------
    gains, offsets : by channel: the frame is the reference times the gain, plus the offset; 1 and 0 where the
        difference is too small to be sure of
    """
    height, width, channels = reference.shape
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    moved = cv2.warpPerspective(frame, motion, (width, height), flags=flags, borderValue=(-1e6,) * channels)
    step = max(1, max(height, width) // _SIDE_PX)
    small = (max(width // step, 1), max(height // step, 1))
    still, moved = (
        cv2.resize(p, small, interpolation=cv2.INTER_AREA).reshape(-1, channels) for p in (reference, moved)
    )
    lines = [_line(still[:, n], moved[:, n]) for n in range(channels)]
    if all(abs(g - 1) < _LEAST_GAIN and abs((g - 1) * _MIDDLE + o) < _LEAST_SHIFT for g, o in lines):
        return (1.0,) * channels, (0.0,) * channels
    return tuple(g for g, _ in lines), tuple(o for _, o in lines)


def _line(still: NDArray[np.float32], moved: NDArray[np.float32]) -> tuple[float, float]:
    usable = (still > _DARKEST) & (still < _LIGHTEST) & (moved > _DARKEST) & (moved < _LIGHTEST)
    if usable.sum() < _LEAST_PIXELS:
        return 1.0, 0.0
    x, y = still[usable].astype(np.float64), moved[usable].astype(np.float64)
    inner = np.ones(x.size, bool)
    gain, offset = 1.0, 0.0
    for _ in range(_ROUNDS):
        spread = x[inner].var()
        gain = float(np.cov(x[inner], y[inner], bias=True)[0, 1] / spread) if spread > 4 else 1.0
        offset = float(y[inner].mean() - gain * x[inner].mean())
        error = np.abs(y - gain * x - offset)
        inner = error <= _LIMIT * 1.4826 * np.median(error) + 0.1
    return gain, offset
