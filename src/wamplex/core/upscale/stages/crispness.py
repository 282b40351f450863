"""Crispness: narrows the edges of an enlargement, so that they are as crisp as those of a picture of that size.

A learned upscaler gives the mean of all pictures that could have been, and a mean is soft. A shock filter (Osher and
Rudin 1990) along the normal of the structure tensor (Förstner and Gülch 1987) moves the two sides of an edge apart.
It acts where the structure has one clear direction, never leaves the range of the nearest pixels, so that nothing
rings, and keeps what the result looks like at the size of the source.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.array_types import Plane
from wamplex.core.base.lazy_imports import cv2
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.luma import luma_plane
from wamplex.core.model.picture import Pixels
from wamplex.core.upscale.stages.stage import FollowingStage, Stage, render_by_tiles

_ROUNDS = 2
# Share of the curvature across an edge that a round takes away, for each unit of the value; above 0.45 in all,
# tones posterise.
_PER_VALUE = 0.003
# At 4x; other factors in proportion. An enlargement by 2x is nearly crisp as it is.
_GRADIENT_PX, _TENSOR_PX, _STEP_PX, _SOURCE_PX = 0.7, 2, 1.25, 1.6
_USUAL_FACTOR = 4.0
# Of the confidence, the part that does not ask for one direction.
_WITHOUT_DIRECTION = 0.25
# Gradient in 8-bit levels a pixel at which the filter acts with half its strength.
_WEAK_EDGE_LEVELS = 4.0
_TILE_PX = 256  # small enough for the processor's cache
_TINY = np.float32(1e-6)


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
        tensor = _radius(max(_GRADIENT_PX * self.scale, 0.35)) + 1 + self.tensor_px
        return below + max(tensor, 1) + _ROUNDS * self.step_radius

    @property
    def tensor_px(self) -> int:
        """Radius of the square that the structure tensor is averaged over."""
        return max(round(_TENSOR_PX * self.scale), 1)

    @property
    def step_px(self) -> float:
        """How far on both sides of an edge the curvature is taken."""
        return max(_STEP_PX * self.scale, 0.8)

    @property
    def step_radius(self) -> int:
        """Radius of the kernels of the curvature."""
        return math.ceil(self.step_px)


class CrispnessStage(FollowingStage):
    """An enlargement whose edges are narrower.

    Parameters
    ----------
    before : the enlargement
    value : 0 (as it is) to 100
    factor : of the enlargement
    """

    def __init__(self, before: Stage, value: float, factor: float) -> None:
        self.width, self.height = before.width, before.height
        self._before = before
        self._sharpening = Sharpening(value, factor)

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window, not clipped."""
        around = window.grown(self._sharpening.halo, self.width, self.height)
        pixels = self._before.render(around, progress)

        def make(tile: Window) -> Pixels:
            progress.check()
            near = tile.grown(self._sharpening.halo, self.width, self.height)
            made = crisper(_part(pixels, near, around), self._sharpening)
            return _part(made, tile, near)

        return render_by_tiles(window, _TILE_PX, make)


def _part(pixels: Pixels, part: Window, whole: Window) -> Pixels:
    rows = slice(part.y - whole.y, part.bottom - whole.y)
    return pixels[rows, part.x - whole.x : part.right - whole.x]


def crisper(pixels: Pixels, sharpening: Sharpening) -> Pixels:
    """All of some pixels with narrower edges; the same change in every colour, none of transparency.

    Parameters
    ----------
    pixels : (H, W, C) float32 in 0..1, colour premultiplied by alpha, which comes last
    sharpening : how much

    Returns
    -------
    (H, W, C) float32, not clipped.
    """
    channels = pixels.shape[2]
    colours = channels - (channels % 2 == 0)
    change = _luma_change(luma_plane(pixels[..., :colours]) * np.float32(255), sharpening) / np.float32(255)
    result = pixels.copy()
    if colours < channels:  # colour without its alpha would leave a fringe
        change *= np.clip(cv2.erode(pixels[..., colours], np.ones((3, 3), np.uint8)), 0, 1)
    result[..., :colours] += change[..., np.newaxis]
    return result


def _luma_change(luma: Plane, sharpening: Sharpening) -> Plane:
    """What is added to the luma, in 8-bit levels: only what is finer than the pixels of the source."""
    weight, across, diagonal = _direction(luma, sharpening)
    lowest, highest = (change(luma, np.ones((3, 3), np.uint8)) for change in (cv2.erode, cv2.dilate))
    mean_kernel, across_kernel, diagonal_kernel = curvature_kernels(sharpening.step_px)
    made = luma
    for _ in range(_ROUNDS):
        curvature = _filtered(made, mean_kernel)
        curvature += across * _filtered(made, across_kernel)
        curvature += diagonal * _filtered(made, diagonal_kernel)
        curvature *= weight
        made = np.subtract(made, curvature, out=curvature)
        np.maximum(made, lowest, out=made)
        np.minimum(made, highest, out=made)
    made = made - luma
    made -= _gaussian(made, _SOURCE_PX * sharpening.scale)
    return made


def _direction(luma: Plane, sharpening: Sharpening) -> tuple[Plane, Plane, Plane]:
    """How much is done at each pixel, and cosine and sine of twice the angle of the normal of its edge."""
    smooth = _gaussian(luma, max(_GRADIENT_PX * sharpening.scale, 0.35))
    x, y = (
        cv2.Sobel(smooth, cv2.CV_32F, *order, scale=sharpening.scale / 8, borderType=cv2.BORDER_REPLICATE)
        for order in ((1, 0), (0, 1))
    )
    product = _averaged(2 * x * y, sharpening.tensor_px)
    x *= x
    y *= y
    total, difference = _averaged(x + y, sharpening.tensor_px), _averaged(x - y, sharpening.tensor_px)
    squared = difference * difference
    squared += product * product
    root = np.sqrt(squared)
    coherence = squared / (total * total + _TINY)
    strength = total + root  # twice the larger eigenvalue
    strength /= strength + np.float32(2 * _WEAK_EDGE_LEVELS**2)
    weight = coherence * np.float32(1 - _WITHOUT_DIRECTION)
    weight += np.float32(_WITHOUT_DIRECTION)
    weight *= strength
    weight *= np.float32(sharpening.amount)
    root += _TINY
    return weight, difference / root, product / root


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


def _gaussian(plane: Plane, sigma_px: float) -> Plane:
    side = 2 * _radius(sigma_px) + 1
    return np.asarray(cv2.GaussianBlur(plane, (side, side), sigma_px, borderType=cv2.BORDER_REPLICATE))


def _averaged(plane: Plane, radius: int) -> Plane:
    """Mean of a square."""
    side = 2 * radius + 1
    return np.asarray(cv2.blur(plane, (side, side), borderType=cv2.BORDER_REPLICATE))


def _filtered(plane: Plane, kernel: NDArray[np.float32]) -> Plane:
    return np.asarray(cv2.filter2D(plane, cv2.CV_32F, kernel, borderType=cv2.BORDER_REPLICATE))
