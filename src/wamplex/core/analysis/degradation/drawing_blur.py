"""Softness of clean drawings and lettering, from where undoing it leaves the fewest and steepest edges."""

from __future__ import annotations

import numpy as np

from wamplex.core.analysis.degradation.degradation_estimator import Estimate
from wamplex.core.base.array_types import Luma
from wamplex.core.base.lazy_imports import cv2
from wamplex.core.upscale.stages.deconvolution import Deconvolution, deconvolution_kernel

_SIDE_PX = 640
_STEP_PX = 0.05
# How far from what the network reads it is looked for: further off lie other minima.
_AROUND_PX = 0.35
_MOST_PX = 1.6
_BORDER_PX = 8
# Where the minimum lies for a softness: medians over the 20 held-out drawings and pages at 2x and 3x.
_FOUND = (0.145, 0.19, 0.26, 0.33, 0.405, 0.505, 0.615, 0.75, 0.88, 1.03, 1.33)
_SOFTNESS = (0.0, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.85, 1.0, 1.2, 1.6)
# Its misses are as large as the network's or smaller, and others: together they are off by 0.07 px (0.11 by
# the network alone, 0.08 by this alone).
_SHARE, _DOUBT_PX = 2 / 3, 0.05


def estimate_drawing_blur(luma: Luma, read: Estimate) -> Estimate:
    """Refine the blur that the network measured by testing candidates.

    Edges are sparse where the sum of gradients is small beside the root of their squares' sum; blur and rings
    make it larger (Krishnan, Tay and Fergus 2011). Only for pictures without noise and compression, which
    grow with the undoing.

    Parameters
    ----------
    luma : (H, W) float32 in any unit
    read : softness in px of a Gaussian blur beyond a clean shrink's, as the network reads it

    Returns
    -------
    The softness in px, with its doubt; ``read`` where there is no minimum near it.
    """
    place = float(np.interp(read.value, _SOFTNESS, _FOUND))
    first = max(round((place - _AROUND_PX) / _STEP_PX), 0)
    last = round(min(place + _AROUND_PX, _MOST_PX) / _STEP_PX)
    centre = _centre(luma)
    tried = np.array([_density(centre, step * _STEP_PX) for step in range(first, last + 1)])
    if not np.isfinite(tried).all():
        return read  # nothing is drawn here
    minimum_index = int(tried.argmin())
    if minimum_index == 0 and first == 0:
        blur = 0.0
    elif minimum_index in (0, len(tried) - 1):
        return read
    else:
        before, at, after = tried[minimum_index - 1 : minimum_index + 2]
        bend = before - 2 * at + after
        blur = (first + minimum_index + 0.5 * (before - after) / bend) * _STEP_PX
    read_blur = float(np.interp(blur, _FOUND, _SOFTNESS))
    return Estimate(_SHARE * read_blur + (1 - _SHARE) * read.value, min(read.uncertainty, _DOUBT_PX))


def _centre(luma: Luma) -> Luma:
    y, x = (max(0, (n - _SIDE_PX) // 2) for n in luma.shape)
    return np.ascontiguousarray(luma[y : y + _SIDE_PX, x : x + _SIDE_PX])


def _density(luma: Luma, blur_px: float) -> float:
    """Sum of the gradients over the root of their squares' sum, once so much blur is undone."""
    if blur_px > 0:
        kernel = deconvolution_kernel(Deconvolution(blur_px=blur_px))
        luma = cv2.filter2D(luma, cv2.CV_32F, kernel, borderType=cv2.BORDER_REPLICATE)
    inside = luma[_BORDER_PX:-_BORDER_PX, _BORDER_PX:-_BORDER_PX]
    across, down = np.diff(inside, axis=1)[:-1], np.diff(inside, axis=0)[:, :-1]
    squares = across**2 + down**2
    total = float(np.sqrt(squares).sum())
    return total / float(squares.sum()) ** 0.5 if total > 0 else np.inf
