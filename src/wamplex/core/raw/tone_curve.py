"""The tone curve of sRGB, continued below black and above white."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

# IEC 61966-2-1, amendment 1 (2003): the curve and the straight piece at its foot.
_FOOT, _SLOPE, _SCALE, _OFFSET, _POWER = 0.0031308, 12.92, 1.055, 0.055, 2.4


def srgb_encode(linear: NDArray[np.float32]) -> NDArray[np.float32]:
    """Linear light as it is seen, any shape, float32; noise below black stays below it.

    Examples
    --------
    >>> [round(float(tone), 4) for tone in srgb_encode(np.array([-0.001, 0.0, 1.0], np.float32))]
    [-0.0129, 0.0, 1.0]
    """
    bright = _SCALE * np.maximum(linear, _FOOT) ** np.float32(1 / _POWER) - _OFFSET
    result: NDArray[np.float32] = np.where(linear > _FOOT, bright, _SLOPE * linear).astype(np.float32)
    return result


def srgb_decode(tone: NDArray[np.float32]) -> NDArray[np.float32]:
    """Back to linear light: what `srgb_encode` came from."""
    foot = _FOOT * _SLOPE
    bright = ((np.maximum(tone, foot) + _OFFSET) / _SCALE) ** np.float32(_POWER)
    result: NDArray[np.float32] = np.where(tone > foot, bright, tone / _SLOPE).astype(np.float32)
    return result
