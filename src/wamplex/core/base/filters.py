"""Filters and block means that the measurements share, at the speed of OpenCV."""

from __future__ import annotations

import math

import numpy as np

from wamplex.core.base.array_types import Plane
from wamplex.core.base.lazy_imports import cv2

_TRUNCATE = 4.0  # standard deviations, as in SciPy's gaussian_filter


def gaussian(plane: Plane, sigma: float, across: int = 0, down: int = 0) -> Plane:
    """Gaussian smoothing of (H, W), or its first derivative across or down; edges are mirrored.

    The same as SciPy's ``gaussian_filter(plane, sigma, order=(down, across))``.
    """
    kernels = [_kernel(sigma, order) for order in (across, down)]
    plane = np.ascontiguousarray(plane, np.float32)
    result: Plane = cv2.sepFilter2D(plane, cv2.CV_32F, *kernels, borderType=cv2.BORDER_REFLECT)
    return result


def _kernel(sigma: float, order: int) -> Plane:
    radius = math.floor(_TRUNCATE * sigma + 0.5)
    place = np.arange(-radius, radius + 1)
    weights = np.exp(-0.5 * (place / sigma) ** 2)
    weights /= weights.sum()
    if order == 1:
        weights = weights * place / sigma**2
    return weights.astype(np.float32)


def box(plane: Plane, width: int, height: int | None = None) -> Plane:
    """Mean over ``width`` x ``height`` pixels around each; edges are mirrored."""
    result: Plane = cv2.blur(plane, (width, height or width), borderType=cv2.BORDER_REFLECT)
    return result


def block_means(plane: Plane, side: int) -> Plane:
    """Mean of each whole block of ``side`` x ``side``: (H // side, W // side), channels kept."""
    rows, columns = (n // side for n in plane.shape[:2])
    if rows == 0 or columns == 0:
        return np.zeros((rows, columns, *plane.shape[2:]), np.float32)
    means = cv2.resize(plane[: rows * side, : columns * side], (columns, rows), interpolation=cv2.INTER_AREA)
    return np.asarray(means, np.float32).reshape(rows, columns, *plane.shape[2:])
