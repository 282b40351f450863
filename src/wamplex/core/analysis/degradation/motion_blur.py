"""Whether a picture moved while it was taken: how far, and in which direction."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from wamplex.core.analysis.degradation.edge_widths import measure_edge_widths
from wamplex.core.base.array_types import Luma

_REBLUR_PX = 1.0
_EDGE_SHARE, _LEAST_STEP = 0.08, 4.0
_LEAST_EDGES = 60
_COUNTED = 0.9  # wider edges are rather out of focus than moved
_ROUNDS = 5
# How far the wave must stand out of the spread about it. Pictures that did not move stayed below 53 (25
# photographs, sharp and with a Gaussian blur), those moved by 3 to 8 pixels lay above 60 as a rule.
_LEAST_EVIDENCE = 60.0
_LEAST_PX = 2.5


@dataclass(frozen=True)
class MotionBlur:
    """An even movement.

    Attributes
    ----------
    px : its length
    deg : its direction in degrees anticlockwise from the right, 0 to 180
    """

    px: float
    deg: float


def estimate_motion_blur(luma: Luma) -> MotionBlur | None:
    """The movement that edges of all directions agree on; None where there is none to be seen.

    The width of an edge grows with how squarely it lies across the movement: its variance is that of the
    picture's own blur and L² / 12 times the squared cosine of the angle between, for a movement of length L.
    A wave of that kind is fitted to all strong edges, those far off counting less. Own definition.

    Parameters
    ----------
    luma : (H, W) in 8-bit levels, 0 to 255

    Returns
    -------
    Length in source pixels, direction in degrees anticlockwise from the right.
    """
    if min(luma.shape) < 32:
        return None
    edges = measure_edge_widths(luma, reblur_px=_REBLUR_PX, fraction=_EDGE_SHARE, min_step=_LEAST_STEP)
    angles = edges.angles
    if len(angles) < _LEAST_EDGES:
        return None
    variances = np.minimum(edges.variances, np.quantile(edges.variances, _COUNTED))
    waves = np.stack([np.ones_like(angles), np.cos(2 * angles), np.sin(2 * angles)], axis=1)
    weights = np.ones_like(variances)
    fitted, spread = np.zeros(3), 1.0
    for _ in range(_ROUNDS):
        solved = np.linalg.lstsq(waves * weights[:, np.newaxis], variances * weights, rcond=None)[0]
        fitted = np.asarray(solved, np.float64)
        misses = variances - waves @ fitted
        spread = float(np.median(np.abs(misses))) + 1e-6
        weights = 1 / np.sqrt(1 + np.square(misses / (2 * spread)))
    height = math.hypot(fitted[1], fitted[2])
    length = math.sqrt(24 * height)
    if length < _LEAST_PX or height / spread * math.sqrt(len(variances)) < _LEAST_EVIDENCE:
        return None
    return MotionBlur(length, 0.5 * math.degrees(math.atan2(fitted[2], fitted[1])) % 180)
