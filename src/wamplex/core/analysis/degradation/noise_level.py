"""How much noise a picture has, measured where it is smooth."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.filters import block_means
from wamplex.core.base.lazy_imports import cv2, ndimage
from wamplex.core.colour.luma import luma_plane
from wamplex.core.model.picture import Picture, Pixels

_BLOCK_PX = 12
_SMOOTH_SHARE = 0.08
_LEAST_BLOCKS = 12
# Nearer than this to black or white, noise is cut off and reads too low.
_CLIPPED = 12 / 255
_LARGEST_SIDE_PX = 1200  # of the middle, which is enough to know
_LEAST_HALVED_PX = 25_000
_IMMERKAER = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32)


@dataclass(frozen=True)
class NoiseLevel:
    """Standard deviations in 8-bit levels.

    Attributes
    ----------
    levels : mean of the colour channels
    luma, colour : of the luma, and of the two colour differences (ITU-R BT.601) on average
    x, y : middle of the smoothest place, as a share of width and height
    """

    levels: float
    luma: float
    colour: float
    x: float
    y: float


def measure_noise(picture: Picture) -> NoiseLevel:
    """Noise as such, and apart for lightness and colour.

    Returns
    -------
    Standard deviations in 8-bit levels.
    """
    pixels = _centre(picture)
    luma = luma_plane(pixels)
    colour = 0.0
    if pixels.shape[2] == 3:
        weights = np.array([0.564, 0.713], np.float32)
        differences = (pixels[..., [2, 0]] - luma[..., None]) * weights + np.float32(0.5)
        colour = max(_fine_noise(differences), 2 * _halved_noise(differences))
    fine = max(_fine_noise(luma[..., None]), 2 * _halved_noise(luma[..., None]))
    x, y = _smoothest(luma)
    top, left = _start(picture)
    x, y = (left + x) / picture.width, (top + y) / picture.height
    return NoiseLevel(estimate_noise_levels(picture), fine, colour, x, y)


def _smoothest(luma: NDArray[np.float32]) -> tuple[float, float]:
    """Middle of the place with the least structure that is neither black nor white, in pixels."""
    if min(luma.shape) < 6 * _BLOCK_PX:
        return luma.shape[1] / 2, luma.shape[0] / 2
    structure = ndimage.maximum_filter(block_means(_smoothed_gradient(luma), _BLOCK_PX), (5, 7))
    level = block_means(luma[1:-1, 1:-1], _BLOCK_PX)
    structure = np.where((level > 0.1) & (level < 0.9), structure, structure + 1)
    structure[0] = structure[-1] = np.inf
    structure[:, 0] = structure[:, -1] = np.inf
    row, column = np.unravel_index(int(np.argmin(structure)), structure.shape)
    return (float(column) + 0.5) * _BLOCK_PX, (float(row) + 0.5) * _BLOCK_PX


def estimate_noise_levels(picture: Picture) -> float:
    """Standard deviation of the noise in 8-bit levels, mean of the colour channels.

    The mask of Immerkaer (1996), which is blind to planes and straight edges, is averaged over small
    blocks; the blocks with the least structure count, since elsewhere texture would pass for noise. Done at
    full and at half size; the larger value counts.

    Returns
    -------
    8-bit levels.
    """
    pixels = _centre(picture)
    return max(_fine_noise(pixels), 2 * _halved_noise(pixels))


def _start(picture: Picture) -> tuple[int, int]:
    top, left = (max(0, (n - _LARGEST_SIDE_PX) // 2) for n in picture.pixels.shape[:2])
    return top, left


def _centre(picture: Picture) -> Pixels:
    top, left = _start(picture)
    return picture.pixels[top : top + _LARGEST_SIDE_PX, left : left + _LARGEST_SIDE_PX]


def _halved_noise(pixels: Pixels) -> float:
    """Noise at half size, 0 where the picture is too small to say.

    White noise halves with the size. What is coarser, or has lost its finest part to compression, does not.
    Small pictures have too few smooth places for that.
    """
    if pixels.shape[0] * pixels.shape[1] // 4 < _LEAST_HALVED_PX:
        return 0.0
    return _fine_noise(block_means(pixels, 2))


def _fine_noise(pixels: Pixels) -> float:
    if min(pixels.shape[:2]) < 2 * _BLOCK_PX:
        return 0.0
    luma = pixels @ np.full(pixels.shape[2], 1 / pixels.shape[2], np.float32)
    structure = block_means(_smoothed_gradient(luma), _BLOCK_PX)
    level = block_means(luma[1:-1, 1:-1], _BLOCK_PX)
    spreads = [block_means(np.abs(_second_difference(pixels[..., c])), _BLOCK_PX) for c in range(pixels.shape[2])]
    spread = np.mean(spreads, axis=0) * np.sqrt(np.pi / 2) / 6
    noise, margin = 0.0, _CLIPPED
    for _ in range(2):
        usable = (level > margin) & (level < 1 - margin)
        if np.count_nonzero(usable) < _LEAST_BLOCKS:
            break
        count = max(_LEAST_BLOCKS, int(_SMOOTH_SHARE * np.count_nonzero(usable)))
        limit = np.partition(structure[usable], count - 1)[count - 1]
        noise = float(np.median(spread[usable & (structure <= limit)]))
        margin = max(_CLIPPED, 2 * noise)  # strong noise is cut off further from black and white
    return 255 * noise


def _second_difference(plane: NDArray[np.float32]) -> NDArray[np.float32]:
    """Immerkaer's mask, inside the picture."""
    result: NDArray[np.float32] = cv2.filter2D(np.ascontiguousarray(plane), -1, _IMMERKAER)[1:-1, 1:-1]
    return result


def _smoothed_gradient(plane: NDArray[np.float32]) -> NDArray[np.float32]:
    """Gradient magnitude over 3 x 3 means, so that fine noise hardly counts as structure."""
    mean = cv2.blur(np.ascontiguousarray(plane), (3, 3))[1:-1, 1:-1]
    across = np.zeros_like(mean)
    down = np.zeros_like(mean)
    across[:, 2:-2] = mean[:, 4:] - mean[:, :-4]
    down[2:-2] = mean[4:] - mean[:-4]
    result: NDArray[np.float32] = cv2.magnitude(across, down)
    return result
