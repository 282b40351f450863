"""How blurred a picture is at its edges."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wamplex.core.analysis.degradation.edge_widths import measure_edge_widths
from wamplex.core.base.array_types import Luma
from wamplex.core.base.lazy_imports import cv2

_REBLUR_PX = 0.7
_STRONGEST_SHARE = 0.05
_LEAST_STEP = 6.0
_LEAST_EDGES = 60
_COUNTED = 0.85
# A difference of neighbours spans one pixel: a box that wide has this standard deviation.
_SHARP_PX = 12**-0.5
# Noise makes small sharp edges of its own.
_NOISY_LEVELS, _SMOOTHING_PX = 2.0, 1.2


@dataclass(frozen=True)
class EdgeBlur:
    """How blurred edges are.

    Attributes
    ----------
    blur_px : standard deviation of the blur beyond what a sharp picture has, in pixels
    edge_px : the same with what every picture has
    """

    blur_px: float
    edge_px: float


def estimate_edge_blur(luma: Luma, noise_levels: float = 0.0) -> EdgeBlur | None:
    """Blur of the strongest edges; None where there are too few edges to know.

    Of the strong edges' widths the 85th percentile counts: thin lines and dense texture seem sharper than
    they are, single edges do not.

    Parameters
    ----------
    luma : (H, W) in 8-bit levels, 0 to 255
    noise_levels : measured noise; where there is some the picture is smoothed first, which is taken off again

    Returns
    -------
    Blur in source pixels as the sigma of a Gaussian.
    """
    if min(luma.shape) < 32:
        return None
    smoothed = 0.0
    if noise_levels > _NOISY_LEVELS:
        smoothed = _SMOOTHING_PX
        luma = cv2.GaussianBlur(luma, (0, 0), smoothed)
    edges = measure_edge_widths(luma, reblur_px=_REBLUR_PX, fraction=_STRONGEST_SHARE, min_step=_LEAST_STEP)
    if len(edges.variances) < _LEAST_EDGES:
        return None
    widths = np.sqrt(np.maximum(edges.variances - smoothed**2, 0.1**2))
    edge = float(np.quantile(widths, _COUNTED))
    return EdgeBlur(float(np.sqrt(max(edge**2 - _SHARP_PX**2, 0.0))), edge)
