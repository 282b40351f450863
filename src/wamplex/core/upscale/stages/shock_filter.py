"""A shock filter: moves the two sides of an edge apart, along the normal of the edge.

After Osher and Rudin 1990; the normal is that of the structure tensor (Förstner and Gülch 1987). It acts where the
structure has one clear direction, never leaves the range of the nearest pixels, so that nothing rings, and leaves alone
what is as coarse as the pixels of the source.
"""

from __future__ import annotations

import math
import threading
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.array_types import Plane
from wamplex.core.base.lazy_imports import cv2

_ROUNDS = 2
# Share of the curvature across an edge that a round takes away, for each unit of the value; above 0.45 in all,
# tones posterise.
_PER_VALUE = 0.003
# At 4x; other factors in proportion. An enlargement by 2x is nearly crisp as it is.
_GRADIENT_PX, _TENSOR_PX, _STEP_PX, _SOURCE_PX = 0.7, 2, 1.25, 1.6
_LEAST_GRADIENT_PX, _LEAST_STEP_PX = 0.35, 0.8
_USUAL_FACTOR = 4.0
# Of the confidence, the part that does not ask for one direction.
_WITHOUT_DIRECTION = 0.25
# Gradient in 8-bit levels a pixel at which the filter acts with half its strength.
_WEAK_EDGE_LEVELS = 4.0
_TINY = np.float32(1e-6)
_BUFFERS = 8


@dataclass(frozen=True)
class Sharpening:
    """What an enlargement by some factor asks for.

    Attributes
    ----------
    value : of the slider, 0 to 100
    factor : of the enlargement
    """

    value: float
    factor: float

    @property
    def amount(self) -> float:
        """Share of the curvature that a round takes away; less at small factors, whose edges are nearly crisp."""
        return _PER_VALUE * self.value * min(max((self.factor - 1) / (_USUAL_FACTOR - 1), 0.0), 1.0)

    @property
    def scale(self) -> float:
        """Of all distances."""
        return self.factor / _USUAL_FACTOR

    @property
    def halo(self) -> int:
        """Pixels around a window that it depends on."""
        below = _radius(_SOURCE_PX * self.scale)
        tensor = _radius(self.gradient_px) + 1 + self.tensor_px
        return below + max(tensor, 1) + _ROUNDS * self.step_radius

    @property
    def gradient_px(self) -> float:
        """Of the Gaussian before gradients are taken."""
        return max(_GRADIENT_PX * self.scale, _LEAST_GRADIENT_PX)

    @property
    def tensor_px(self) -> int:
        """Radius of the square that the structure tensor is averaged over."""
        return max(round(_TENSOR_PX * self.scale), 1)

    @property
    def step_px(self) -> float:
        """How far on both sides of an edge the curvature is taken."""
        return max(_STEP_PX * self.scale, _LEAST_STEP_PX)

    @property
    def step_radius(self) -> int:
        """Radius of the kernels of the curvature."""
        return math.ceil(self.step_px)


class _Workspace(threading.local):
    """Planes that a thread uses again and again: fresh memory for each step takes longer than the step."""

    def __init__(self) -> None:
        self._planes: list[Plane] = []

    def planes(self, shape: tuple[int, ...]) -> list[Plane]:
        if not self._planes or self._planes[0].shape != shape:
            self._planes = [np.empty(shape, np.float32) for _ in range(_BUFFERS)]
        return self._planes


_workspace = _Workspace()


def luma_change(luma: Plane, sharpening: Sharpening) -> Plane:
    """What is to be added to a luma so that its edges become narrower.

    Parameters
    ----------
    luma : (H, W) in 8-bit levels
    sharpening : how much

    Returns
    -------
    (H, W) in 8-bit levels; valid until the next call in the same thread.
    """
    made, lowest, highest, curvature, part, weight, across, diagonal = _workspace.planes(luma.shape)
    _direct(luma, sharpening, (made, lowest, highest, curvature, part), (weight, across, diagonal))
    square = np.ones((3, 3), np.uint8)
    cv2.erode(luma, square, dst=lowest)
    cv2.dilate(luma, square, dst=highest)
    mean_kernel, across_kernel, diagonal_kernel = curvature_kernels(sharpening.step_px)
    np.copyto(made, luma)
    for _ in range(_ROUNDS):
        _filter(made, mean_kernel, curvature)
        for kernel, share in ((across_kernel, across), (diagonal_kernel, diagonal)):
            _filter(made, kernel, part)
            np.multiply(part, share, out=part)
            np.add(curvature, part, out=curvature)
        np.multiply(curvature, weight, out=curvature)
        np.subtract(made, curvature, out=made)
        np.maximum(made, lowest, out=made)
        np.minimum(made, highest, out=made)
    np.subtract(made, luma, out=made)
    _gaussian(made, _SOURCE_PX * sharpening.scale, part)
    np.subtract(made, part, out=made)
    return made


def _direct(luma: Plane, sharpening: Sharpening, spare: tuple[Plane, ...], out: tuple[Plane, ...]) -> None:
    """How much is done at each pixel, and cosine and sine of twice the angle of the normal of its edge."""
    smooth, x, y, part, total = spare
    weight, difference, product = out
    _gaussian(luma, sharpening.gradient_px, smooth)
    for order, gradient in (((1, 0), x), ((0, 1), y)):
        cv2.Sobel(smooth, cv2.CV_32F, *order, dst=gradient, scale=sharpening.scale / 8, borderType=cv2.BORDER_REPLICATE)
    np.multiply(x, y, out=part)
    np.add(part, part, out=part)
    _average(part, sharpening.tensor_px, product)
    np.multiply(x, x, out=x)
    np.multiply(y, y, out=y)
    _average(np.add(x, y, out=part), sharpening.tensor_px, total)
    _average(np.subtract(x, y, out=part), sharpening.tensor_px, difference)
    root, squared, coherence = smooth, x, y
    np.multiply(difference, difference, out=squared)
    np.multiply(product, product, out=part)
    np.add(squared, part, out=squared)
    np.sqrt(squared, out=root)
    np.multiply(total, total, out=coherence)
    np.add(coherence, _TINY, out=coherence)
    np.divide(squared, coherence, out=coherence)
    # Twice the larger eigenvalue, beside that of a weak edge.
    np.add(total, root, out=weight)
    np.add(weight, np.float32(2 * _WEAK_EDGE_LEVELS**2), out=part)
    np.divide(weight, part, out=weight)
    np.multiply(coherence, np.float32((1 - _WITHOUT_DIRECTION) * sharpening.amount), out=coherence)
    np.add(coherence, np.float32(_WITHOUT_DIRECTION * sharpening.amount), out=coherence)
    np.multiply(weight, coherence, out=weight)
    np.add(root, _TINY, out=root)
    np.divide(difference, root, out=difference)
    np.divide(product, root, out=product)


@lru_cache(maxsize=16)
def curvature_kernels(step_px: float) -> tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.float32]]:
    """Three kernels that together give the second difference in any direction, with linear interpolation.

    For a direction t it is M + cos(2 t) A + sin(2 t) D (steerable filters, Freeman and Adelson 1991), from the
    second differences along rows, columns and both diagonals.

    Parameters
    ----------
    step_px : distance on both sides

    Returns
    -------
    M, A and D, (n, n) float32 with n odd.
    """
    row, falling, column, rising = (_second_difference(step_px, k * math.pi / 4) for k in range(4))
    half, quarter = np.float32(1 / 2), np.float32(1 / 4)
    return (row + falling + column + rising) * quarter, (row - column) * half, (falling - rising) * half


def _second_difference(step_px: float, turn: float) -> NDArray[np.float32]:
    radius = math.ceil(step_px)
    kernel = np.zeros((2 * radius + 1, 2 * radius + 1), np.float32)
    kernel[radius, radius] = -2
    for side in (-1, 1):
        x, y = side * step_px * math.cos(turn), side * step_px * math.sin(turn)
        for row, column in np.ndindex(kernel.shape):
            nearness = max(1 - abs(column - radius - x), 0.0) * max(1 - abs(row - radius - y), 0.0)
            kernel[row, column] += nearness
    return kernel


def _radius(sigma_px: float) -> int:
    return math.ceil(3 * sigma_px)


def _gaussian(plane: Plane, sigma_px: float, out: Plane) -> None:
    side = 2 * _radius(sigma_px) + 1
    cv2.GaussianBlur(plane, (side, side), sigma_px, dst=out, borderType=cv2.BORDER_REPLICATE)


def _average(plane: Plane, radius: int, out: Plane) -> None:
    """Mean of a square."""
    side = 2 * radius + 1
    cv2.blur(plane, (side, side), dst=out, borderType=cv2.BORDER_REPLICATE)


def _filter(plane: Plane, kernel: NDArray[np.float32], out: Plane) -> None:
    cv2.filter2D(plane, cv2.CV_32F, kernel, dst=out, borderType=cv2.BORDER_REPLICATE)
