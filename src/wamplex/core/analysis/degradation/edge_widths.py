"""How wide strong edges are, each by itself: what softness and movement are measured by."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.array_types import Luma
from wamplex.core.base.lazy_imports import cv2

# Of neighbours, over two rows: a difference over two pixels does not see blur below half a pixel.
_ACROSS = np.array([[-0.5, 0.5], [-0.5, 0.5]], np.float32)
_LEAST_RATIO = 1.001


@dataclass(frozen=True)
class EdgeWidths:
    """Crests of strong edges, (n,) float64 each.

    Attributes
    ----------
    variances : of the blur across each, in px²
    angles : direction of its gradient in radians, anticlockwise from the right
    """

    variances: NDArray[np.float64]
    angles: NDArray[np.float64]


def measure_edge_widths(luma: Luma, *, reblur_px: float, fraction: float, min_step: float) -> EdgeWidths:
    """The strongest edges of a picture and how blurred they are.

    An edge is blurred once more by a known amount; the ratio of its gradients before and after gives its own
    blur (Zhuo and Sim 2011).

    Parameters
    ----------
    luma : (H, W) in 8-bit levels, 0 to 255
    reblur_px : standard deviation of the further blur
    fraction : of all pixels, how many count as strong
    min_step : in levels a pixel; weaker edges are lost in noise

    Returns
    -------
    Blur in source pixels as the sigma of a Gaussian, and directions in radians.
    """
    across, down = _gradient(luma)
    strength = np.hypot(across, down)
    again = np.hypot(*_gradient(cv2.GaussianBlur(luma, (0, 0), reblur_px)))
    minimum = max(float(np.quantile(strength[::2, ::2], 1 - fraction)), min_step)
    crest = (strength >= cv2.dilate(strength, np.ones((3, 3)))) & (strength >= minimum)
    ratio = strength[crest].astype(np.float64) / np.maximum(again[crest], 1e-6)
    sound = ratio > _LEAST_RATIO
    variances = reblur_px**2 / (ratio[sound] ** 2 - 1)
    # Rows of a picture grow downwards.
    return EdgeWidths(variances, np.arctan2(-down[crest][sound], across[crest][sound]).astype(np.float64))


def _gradient(luma: Luma) -> tuple[Luma, Luma]:
    return cv2.filter2D(luma, cv2.CV_32F, _ACROSS), cv2.filter2D(luma, cv2.CV_32F, _ACROSS.T.copy())
