"""How blurred a picture is, and whether it moved."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wamplex.core.lazy import cv2

Luma = NDArray[np.float32]

_REBLUR_PX = 0.7
_STRONGEST_SHARE = 0.05
_LEAST_STEP = 6.0  # levels a pixel; weaker edges are lost in noise
_LEAST_EDGES = 60
_COUNTED = 0.85
# A difference of neighbours spans one pixel: a box that wide has this standard deviation.
_SHARP_PX = 12**-0.5
# Of neighbours, over two rows: a difference over two pixels does not see blur below half a pixel.
_ACROSS = np.array([[-0.5, 0.5], [-0.5, 0.5]], np.float32)
# Noise makes small sharp edges of its own.
_NOISY_LEVELS, _SMOOTHING_PX = 2.0, 1.2


@dataclass(frozen=True)
class Softness:
    """How blurred edges are.

    Attributes
    ----------
    blur_px : standard deviation of the blur beyond what a sharp picture has, in pixels
    edge_px : the same with what every picture has
    """

    blur_px: float
    edge_px: float


def softness(luma: Luma, noise_levels: float = 0.0) -> Softness | None:
    """Blur of the strongest edges; None where there are too few edges to know.

    An edge is blurred once more by a known amount; the ratio of its gradients before and after gives its own
    blur (Zhuo and Sim 2011). Of the strong edges' widths the 85th percentile counts: thin lines and dense
    texture seem sharper than they are, single edges do not.

    Parameters
    ----------
    luma : (H, W) in 8-bit levels, 0 to 255
    noise_levels : measured noise; where there is some the picture is smoothed first, which is taken off again
    """
    if min(luma.shape) < 32:
        return None
    smoothed = 0.0
    if noise_levels > _NOISY_LEVELS:
        smoothed = _SMOOTHING_PX
        luma = cv2.GaussianBlur(luma, (0, 0), smoothed)
    across, down = _gradient(luma)
    strength = np.hypot(across, down)
    again = np.hypot(*_gradient(cv2.GaussianBlur(luma, (0, 0), _REBLUR_PX)))
    least = max(float(np.quantile(strength[::2, ::2], 1 - _STRONGEST_SHARE)), _LEAST_STEP)
    crest = (strength >= cv2.dilate(strength, np.ones((3, 3)))) & (strength >= least)
    if np.count_nonzero(crest) < _LEAST_EDGES:
        return None
    ratio = strength[crest] / np.maximum(again[crest], 1e-6)
    sound = ratio > 1.001
    widths = _REBLUR_PX / np.sqrt(ratio[sound] ** 2 - 1)
    widths = np.sqrt(np.maximum(widths**2 - smoothed**2, 0.1**2))
    edge = float(np.quantile(widths, _COUNTED))
    blur = float(np.sqrt(max(edge**2 - _SHARP_PX**2, 0.0)))
    return Softness(blur, edge)


def _gradient(luma: Luma) -> tuple[Luma, Luma]:
    return cv2.filter2D(luma, cv2.CV_32F, _ACROSS), cv2.filter2D(luma, cv2.CV_32F, _ACROSS.T.copy())
