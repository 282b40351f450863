"""Where a frame may be trusted: not where something moved, and not where its tones are others."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.filters import gaussian
from wamplex.core.base.lazy_imports import cv2

Plane = NDArray[np.float32]
_TONE_PX, _FLOW_PX = 1.5, 3.0  # what is compared is smoothed so far, and a movement is looked for so wide
_TONE_LIMIT = 2.5  # deviations from which on tones differ
_EXPECTED_ERROR = 0.5  # of the freedom: how wrong what is expected may be after smoothing
_MOVED_PX, _SURELY_MOVED_PX = 0.25, 0.5


def reliability(seen: Plane, predicted: Plane, freedom: Plane, deviation: float) -> Plane:
    """How far a frame is trusted at each of its pixels.

    Parameters
    ----------
    seen : (h, w) float32, luma of the frame in levels, at the exposure of the reference
    predicted : (h, w) float32, what it would have seen of the expected picture
    freedom : (h, w) float32, standard deviation of the expected picture's error, in levels
    deviation : of the frame's noise, in levels

    Returns
    -------
    (h, w) float32 in 0..1.
    """
    difference = seen - predicted
    return _by_tone(difference, freedom, deviation) * _by_flow(difference, predicted, deviation)


def _by_tone(difference: Plane, freedom: Plane, deviation: float) -> Plane:
    """A smoothed difference should be about as large as smoothed noise, and what is unknown of detail."""
    smooth = gaussian(difference, _TONE_PX)
    noise = deviation / (2 * np.sqrt(np.pi) * _TONE_PX)  # of noise after a Gaussian
    usual = np.sqrt(noise**2 + (_EXPECTED_ERROR * gaussian(freedom, _TONE_PX)) ** 2) + np.float32(0.3)
    trusted: Plane = (1 / (1 + (smooth / (_TONE_LIMIT * usual)) ** 4)).astype(np.float32)
    return trusted


def _by_flow(difference: Plane, predicted: Plane, deviation: float) -> Plane:
    """A step of Lucas and Kanade (1981) in each neighbourhood: what needs one of a quarter pixel has moved."""
    even = gaussian(predicted, 1.0)
    across, down = (cv2.Sobel(even, cv2.CV_32F, *order, ksize=3, scale=1 / 8) for order in ((1, 0), (0, 1)))
    smooth = gaussian(difference, 1.0)
    xx, xy, yy, x, y = (
        gaussian(p, _FLOW_PX) for p in (across**2, across * down, down**2, across * smooth, down * smooth)
    )
    # So much structure that noise alone seldom makes a quarter pixel.
    regulariser = np.float32(0.05 + deviation**2 / 40)
    determinant = (xx + regulariser) * (yy + regulariser) - xy**2
    step = np.hypot((yy + regulariser) * x - xy * y, (xx + regulariser) * y - xy * x) / determinant
    moved: Plane = np.clip((step - _MOVED_PX) / (_SURELY_MOVED_PX - _MOVED_PX), 0, 1).astype(np.float32)
    return 1 - moved
