"""Where a picture has texture of its own; elsewhere added texture would look like a rash."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.lazy_imports import cv2
from wamplex.core.colour.luma import luma_plane
from wamplex.core.model.picture import Pixels

# How far a pixel's share depends on its surroundings.
REACH_PX = 8
_AROUND = (9, 9)
# In levels: what a pixel must differ by to count as busy. In texture nearly every pixel does; on skin, paper
# and walls few, and beside an edge or a letter only those along it.
_BUSY_LEVELS, _BUSY_SHARE = 1.5, (0.5, 0.85)
# Between these the detail is that of letters, windows and eyes rather than of fur and grass.
_STRONG_LEVELS = (18.0, 34.0)
# From this coherence of the structure tensor on it is a straight edge or a stripe.
_STRAIGHT = 0.8
_LEAST_GRADIENT = 4.0  # squared levels; weaker ones have no direction


def texture_weight(pixels: Pixels) -> NDArray[np.float32]:
    """How much texture may be added, own definition: (H, W) float32 in 0..1 for (H, W, C) in 0..1.

    The product of three: how many pixels around differ from their neighbours, how little the detail follows
    one direction, and how far its contrast stays below that of outlines.

    Returns
    -------
    1 where the source's own finest octave is fully textured, 0 on flat places, edges and strokes.
    """
    luma = np.ascontiguousarray(luma_plane(pixels)) * np.float32(255)
    fine = luma - cv2.GaussianBlur(luma, (5, 5), 1.0, borderType=cv2.BORDER_REPLICATE)
    busy = _mean((np.abs(fine) > _BUSY_LEVELS).astype(np.float32))
    # Means of squares are taken as running sums, which may end a hair below 0.
    strong = np.sqrt(np.maximum(_mean(fine * fine), 0))
    weight = _rising(busy, *_BUSY_SHARE) * (1 - _rising(strong, *_STRONG_LEVELS))
    weight *= 1 - np.minimum(_coherence(luma) / _STRAIGHT, 1) ** 2
    result: NDArray[np.float32] = cv2.blur(weight.astype(np.float32), (5, 5), borderType=cv2.BORDER_REPLICATE)
    return result


def _coherence(luma: NDArray[np.float32]) -> NDArray[np.float32]:
    """0 where gradients go all ways, 1 where they all lie along one line (Jähne 1993)."""
    step = np.array([[-0.5, 0, 0.5]], np.float32)
    across = cv2.filter2D(luma, -1, step, borderType=cv2.BORDER_REPLICATE)
    down = cv2.filter2D(luma, -1, step.T.copy(), borderType=cv2.BORDER_REPLICATE)
    xx, yy = (np.maximum(_mean(step * step), 0) for step in (across, down))
    xy = _mean(across * down)
    result: NDArray[np.float32] = np.sqrt((xx - yy) ** 2 + 4 * xy * xy) / (xx + yy + _LEAST_GRADIENT)
    return result


def _mean(plane: NDArray[np.float32]) -> NDArray[np.float32]:
    result: NDArray[np.float32] = cv2.blur(plane, _AROUND, borderType=cv2.BORDER_REPLICATE)
    return result


def _rising(values: NDArray[np.float32], low: float, high: float) -> NDArray[np.float32]:
    """From 0 at ``least`` to 1 at ``most``, without a corner."""
    place = np.clip((values - low) / (high - low), 0, 1)
    result: NDArray[np.float32] = place * place * (3 - 2 * place)
    return result
