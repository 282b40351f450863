"""sRGB to CIELAB and back in single precision, for pixels of results."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

_Plane = NDArray[np.float32]
# IEC 61966-2-1, relative to the white it gives, so that greys have a* = b* = 0.
_TO_XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
_TO_RELATIVE = (_TO_XYZ / _TO_XYZ.sum(axis=1, keepdims=True)).astype(np.float64)
_FROM_RELATIVE = np.linalg.inv(_TO_RELATIVE)
_EDGE = 6 / 29  # CIE 15:2004


def srgb_to_lab32(pixels: _Plane) -> _Plane:
    """(..., 3) sRGB in 0..1 to CIELAB under D65.

    Returns
    -------
    (..., 3) float32: L* in 0..100, a* and b*.
    """
    encoded = np.asarray(pixels, np.float32)
    low = encoded * np.float32(1 / 12.92)
    high = ((encoded + np.float32(0.055)) * np.float32(1 / 1.055)) ** np.float32(2.4)
    linear = np.where(encoded <= np.float32(0.04045), low, high)
    x, y, z = (_curve(plane) for plane in _mixed(linear, _TO_RELATIVE))
    return np.stack((116 * y - 16, 500 * (x - y), 200 * (y - z)), axis=-1)


def lab_to_srgb(lab: _Plane) -> _Plane:
    """(..., 3) CIELAB under D65 to sRGB.

    Returns
    -------
    (..., 3) float32, outside of 0..1 where sRGB has no such colour.
    """
    y = (lab[..., 0] + 16) * np.float32(1 / 116)
    x, z = y + lab[..., 1] * np.float32(1 / 500), y - lab[..., 2] * np.float32(1 / 200)
    relative = np.stack([_back(plane) for plane in (x, y, z)], axis=-1)
    linear = np.stack(_mixed(relative, _FROM_RELATIVE), axis=-1)
    high = np.float32(1.055) * np.maximum(linear, 0) ** np.float32(1 / 2.4) - np.float32(0.055)
    return np.where(linear <= np.float32(0.0031308), linear * np.float32(12.92), high)


def _mixed(planes: _Plane, matrix: NDArray[np.float64]) -> tuple[_Plane, _Plane, _Plane]:
    """Three weighted sums, spelled out: a library's product may round a window otherwise than the whole."""
    first, second, third = planes[..., 0], planes[..., 1], planes[..., 2]
    rows = matrix.astype(np.float32)
    one, two, three = (row[0] * first + row[1] * second + row[2] * third for row in rows)
    return one, two, three


def _curve(ratio: _Plane) -> _Plane:
    straight = ratio * np.float32(1 / (3 * _EDGE**2)) + np.float32(4 / 29)
    return np.where(ratio > np.float32(_EDGE**3), np.cbrt(ratio), straight)


def _back(value: _Plane) -> _Plane:
    straight = (value - np.float32(4 / 29)) * np.float32(3 * _EDGE**2)
    return np.where(value > np.float32(_EDGE), value * value * value, straight)
