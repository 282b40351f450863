"""How a frame's exposure and white balance differ from the reference's."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.filters import block_means
from wamplex.core.base.lazy_imports import cv2
from wamplex.core.frames.motion import Homography, scaled
from wamplex.core.frames.robust import robust_deviation

_SIDE_PX = 400
_DARKEST, _LIGHTEST = 8.0, 247.0  # levels beyond which a channel may be clipped
_MIDDLE, _OUTSIDE = 128.0, -1e6
_MIN_GAIN_CHANGE, _MIN_SHIFT = 0.015, 0.5  # less, of the slope and at the middle level, is an error of measuring
_ROUNDS, _LIMIT = 5, 2.5  # outliers are left out beyond so many deviations
_MIN_PIXELS = 100


class ExposureReference:
    """What exposures are compared with, prepared once for all frames.

    Parameters
    ----------
    pixels : (H, W, C) float32 in levels
    """

    def __init__(self, pixels: NDArray[np.float32]) -> None:
        self._step = max(1, max(pixels.shape[:2]) // _SIDE_PX)
        self._pixels = block_means(pixels, self._step)

    def exposure(self, frame: NDArray[np.float32], motion: Homography) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """Fit a line to the levels of each channel.

        Parameters
        ----------
        frame : (H, W, C) float32 in levels, of the same size
        motion : (3, 3), from pixels of the reference to pixels of the frame

        Returns
        -------
        gains, offsets : by channel: the frame is the reference times the gain, plus the offset; 1 and 0 where the
            difference is too small to be sure of
        """
        height, width, channels = self._pixels.shape
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        small_motion = scaled(motion, 1 / self._step)
        moved = cv2.warpPerspective(
            block_means(frame, self._step), small_motion, (width, height), flags=flags, borderValue=(_OUTSIDE,) * 3
        ).reshape(height, width, channels)
        lines = [_line(self._pixels[..., n].ravel(), moved[..., n].ravel()) for n in range(channels)]
        if all(abs(g - 1) < _MIN_GAIN_CHANGE and abs((g - 1) * _MIDDLE + o) < _MIN_SHIFT for g, o in lines):
            return (1.0,) * channels, (0.0,) * channels
        return tuple(g for g, _ in lines), tuple(o for _, o in lines)


def _line(still: NDArray[np.float32], moved: NDArray[np.float32]) -> tuple[float, float]:
    usable = (still > _DARKEST) & (still < _LIGHTEST) & (moved > _DARKEST) & (moved < _LIGHTEST)
    if usable.sum() < _MIN_PIXELS:
        return 1.0, 0.0
    x, y = still[usable].astype(np.float64), moved[usable].astype(np.float64)
    inner = np.ones(x.size, bool)
    gain, offset = 1.0, 0.0
    for _ in range(_ROUNDS):
        spread = x[inner].var()
        gain = float(np.cov(x[inner], y[inner], bias=True)[0, 1] / spread) if spread > 4 else 1.0
        offset = float(y[inner].mean() - gain * x[inner].mean())
        error = np.abs(y - gain * x - offset)
        inner = error <= _LIMIT * robust_deviation(error) + 0.1
    return gain, offset
