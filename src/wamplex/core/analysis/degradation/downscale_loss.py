"""What a picture loses when it is shrunk and enlarged again, which shows how much of its size it needs."""

from __future__ import annotations

import numpy as np

from wamplex.core.base.array_types import Luma
from wamplex.core.base.lazy_imports import cv2

# By factor, from interpolated photographs: the share of the loss up to which a picture counts as having
# survived.
_FACTORS = (2.0, 2.2, 2.5, 3.0, 3.5, 4.0)
_SURVIVAL = (0.58, 0.46, 0.45, 0.41, 0.50, 0.47)
# Factors that pictures are mostly enlarged by. For each, the share of the loss that drawings stay above as
# they are, blurred, compressed or noisy, and mostly stay below when they are enlarged so much; and the same
# of the depth of the dip, as a constant and a part of the shares beside it. At half a size very blurred ones
# can have a dip too, but then the shares beside it are low: of 1,000 drawings, most of them blurred, one is
# below.
_DIPS = {4.0: (0.42, 0.76, 0.0), 3.0: (0.42, 0.76, 0.0), 2.0: (0.42, 0.48, 0.5), 1.5: (0.45, 0.85, 0.0)}
_BESIDE = (0.875, 1.125)
_LOOKED_AT_PX = 640
_NOTHING = 1e-3  # levels; a flat picture loses all that it has by any factor


def downscale_loss(luma: Luma, factor: float, fraction: float = 1.0) -> bool:
    """Whether shrinking by ``factor`` loses little, relative to shrinking by 1.5 × ``factor``."""
    return _loss_fraction(luma, factor) < fraction * float(np.interp(factor, _FACTORS, _SURVIVAL))


def loss_minimum(luma: Luma) -> float | None:
    """The factor, of 1.5, 2, 3 and 4, by which a drawing was enlarged before; None if it was not.

    Shrinking by the factor of an earlier enlargement loses almost nothing, so the loss relative to shrinking by
    1.5 × this factor has a minimum there. Blur removes fine detail gradually and has no such minimum.

    Parameters
    ----------
    luma : (H, W) in 8-bit levels, 0 to 255; its middle is looked at
    """
    height, width = luma.shape
    y, x = (max(0, (n - _LOOKED_AT_PX) // 2) for n in (height, width))
    centre = luma[y : y + _LOOKED_AT_PX, x : x + _LOOKED_AT_PX]
    for factor, (limit, depth, rise) in _DIPS.items():
        there = _loss_fraction(centre, factor)
        if there > limit:
            continue
        neighbour = min(_loss_fraction(centre, factor * by) for by in _BESIDE)
        if there <= (depth + rise * neighbour) * neighbour:
            return factor
    return None


def _loss_fraction(luma: Luma, factor: float) -> float:
    return (_loss(luma, factor) + _NOTHING) / (_loss(luma, 1.5 * factor) + _NOTHING)


def _loss(luma: Luma, factor: float) -> float:
    height, width = luma.shape
    size = (max(8, round(width / factor)), max(8, round(height / factor)))
    small = cv2.resize(luma, size, interpolation=cv2.INTER_AREA)
    losses = []
    for kernel in (cv2.INTER_LINEAR, cv2.INTER_CUBIC, cv2.INTER_LANCZOS4):
        back = cv2.resize(small, (width, height), interpolation=kernel)
        losses.append(float(np.abs(back - luma)[8:-8, 8:-8].mean()))
    return min(losses)
