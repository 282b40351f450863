"""CIELAB and the colour difference CIEDE2000."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.model.picture import Pixels

Lab = NDArray[np.float64]
# IEC 61966-2-1: linear sRGB to XYZ under D65, and the white it gives.
_TO_XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
_WHITE = _TO_XYZ.sum(axis=1)


def srgb_to_lab(pixels: Pixels) -> Lab:
    """(..., 3) sRGB in 0..1 to CIELAB under D65 (CIE 15:2004).

    Returns
    -------
    (..., 3) float64: L* in 0..100, a* and b*.
    """
    encoded = pixels.astype(np.float64)
    linear = np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)
    ratio = linear @ _TO_XYZ.T / _WHITE
    curve = np.where(ratio > (6 / 29) ** 3, np.cbrt(ratio), ratio / (3 * (6 / 29) ** 2) + 4 / 29)
    x, y, z = curve[..., 0], curve[..., 1], curve[..., 2]
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], axis=-1)


def ciede2000(one: Lab, other: Lab) -> NDArray[np.float64]:
    """Colour difference of Lab values (..., 3), weights 1 (Sharma, Wu and Dalal 2005, equations 2 to 22).

    Returns
    -------
    (...) float64, in units of Delta E 2000.
    """
    l1, a1, b1 = (one[..., i] for i in range(3))
    l2, a2, b2 = (other[..., i] for i in range(3))
    mean_chroma7 = ((np.hypot(a1, b1) + np.hypot(a2, b2)) / 2) ** 7
    stretch = 1 + 0.5 * (1 - np.sqrt(mean_chroma7 / (mean_chroma7 + 25.0**7)))
    c1, c2 = np.hypot(stretch * a1, b1), np.hypot(stretch * a2, b2)
    h1, h2 = (np.degrees(np.arctan2(b, stretch * a)) % 360 for a, b in ((a1, b1), (a2, b2)))
    coloured = c1 * c2 > 0
    turn = h2 - h1
    turn = np.where(turn > 180, turn - 360, np.where(turn < -180, turn + 360, turn)) * coloured
    d_hue = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(turn) / 2)
    mean_hue = _mean_hue(h1, h2, coloured)
    mean_l, mean_c = (l1 + l2) / 2, (c1 + c2) / 2
    t = (
        1
        - 0.17 * np.cos(np.radians(mean_hue - 30))
        + 0.24 * np.cos(np.radians(2 * mean_hue))
        + 0.32 * np.cos(np.radians(3 * mean_hue + 6))
        - 0.20 * np.cos(np.radians(4 * mean_hue - 63))
    )
    s_l = 1 + 0.015 * (mean_l - 50) ** 2 / np.sqrt(20 + (mean_l - 50) ** 2)
    s_c, s_h = 1 + 0.045 * mean_c, 1 + 0.015 * mean_c * t
    rotation = -2 * np.sqrt(mean_c**7 / (mean_c**7 + 25.0**7))
    rotation = rotation * np.sin(np.radians(60 * np.exp(-(((mean_hue - 275) / 25) ** 2))))
    by_l, by_c, by_h = (l2 - l1) / s_l, (c2 - c1) / s_c, d_hue / s_h
    difference: NDArray[np.float64] = np.sqrt(by_l**2 + by_c**2 + by_h**2 + rotation * by_c * by_h)
    return difference


def _mean_hue(h1: NDArray[np.float64], h2: NDArray[np.float64], coloured: NDArray[np.bool_]) -> NDArray[np.float64]:
    total = h1 + h2
    across = np.where(total < 360, (total + 360) / 2, (total - 360) / 2)
    mean: NDArray[np.float64] = np.where(coloured, np.where(np.abs(h1 - h2) <= 180, total / 2, across), total)
    return mean
