"""How an enlarged picture is seen by a frame: blurred by lens and sensor, then sampled between its pixels."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.lazy_imports import cv2, sparse
from wamplex.core.frames.motion import Coordinates

Planes = NDArray[np.float32]
_TAPS = 4


def pixel_kernel(factor: int, blur_px: float) -> NDArray[np.float32]:
    """The blur of a frame along one axis: the width of its pixels, and the lens in front of them.

    Parameters
    ----------
    factor : enlargement
    blur_px : standard deviation of the lens's Gaussian, in pixels of the frame

    Returns
    -------
    (odd,) float32 of sum 1, in pixels of the enlarged picture: a box as wide as a pixel of the frame, convolved with
    the Gaussian.
    """
    spread = max(blur_px * factor, 1e-3) * math.sqrt(2)
    reach = math.ceil(3.5 * blur_px * factor + factor / 2)
    edges = [math.erf((n + side * factor / 2) / spread) for n in range(-reach, reach + 1) for side in (-1, 1)]
    pairs = np.asarray(edges).reshape(-1, 2)
    kernel = pairs[:, 1] - pairs[:, 0]
    normalised: NDArray[np.float32] = (kernel / kernel.sum()).astype(np.float32)
    return normalised


def convolve(planes: Planes, kernel: NDArray[np.float32]) -> Planes:
    """Blur along both axes, mirrored at the border.

    Parameters
    ----------
    planes : (H, W) or (H, W, C) float32
    kernel : (odd,) float32, symmetric

    Returns
    -------
    The same shape.
    """
    blurred: Planes = cv2.sepFilter2D(planes, -1, kernel, kernel, borderType=cv2.BORDER_REFLECT_101)
    return blurred.reshape(planes.shape)


@dataclass(frozen=True, eq=False)
class Sampler:
    """Catmull-Rom interpolation at given places, as a sparse matrix of 16 weights a row."""

    matrix: sparse.csr_matrix  # (places, pixels)

    @staticmethod
    def at(x: Coordinates, y: Coordinates, width: int, height: int) -> Sampler:
        """Sample a picture at places between its pixels.

        Parameters
        ----------
        x, y : (n,) float64, column and row, pixel centres at whole numbers
        width, height : of the picture; places outside it repeat its border

        Returns
        -------
        The sampler, for any channels.
        """
        columns, across = _taps(x, width)
        rows, down = _taps(y, height)
        places = (rows[:, :, np.newaxis] * np.int32(width) + columns[:, np.newaxis, :]).reshape(-1)
        weights = (down[:, :, np.newaxis] * across[:, np.newaxis, :]).reshape(-1)
        starts = np.arange(0, weights.size + 1, _TAPS * _TAPS, dtype=np.int32)
        return Sampler(sparse.csr_matrix((weights, places, starts), shape=(x.size, width * height)))

    def sample(self, planes: Planes) -> Planes:
        """Values at the places.

        Parameters
        ----------
        planes : (H, W, C) float32

        Returns
        -------
        (n, C) float32.
        """
        return self._by_channel(self.matrix, planes.reshape(-1, planes.shape[2]))

    def scatter(self, values: Planes, height: int, width: int) -> Planes:
        """Transpose of `sample`: what each value says of the pixels it was taken from.

        Parameters
        ----------
        values : (n, C) float32
        height, width : of the picture

        Returns
        -------
        (H, W, C) float32.
        """
        return self._by_channel(self.matrix.T, values).reshape(height, width, -1)

    @staticmethod
    def _by_channel(matrix: sparse.sparray, columns: Planes) -> Planes:
        """A sparse product; one column after the other takes half the time of all at once."""
        return np.stack([matrix @ np.ascontiguousarray(column) for column in columns.T], axis=1)


def _taps(place: Coordinates, size: int) -> tuple[NDArray[np.int32], NDArray[np.float32]]:
    """Four neighbours and their weights (Catmull and Rom 1974)."""
    start = np.floor(place)
    t = (place - start)[:, np.newaxis]
    weights = np.concatenate(
        [
            ((-0.5 * t + 1) * t - 0.5) * t,
            (1.5 * t - 2.5) * t * t + 1,
            ((-1.5 * t + 2) * t + 0.5) * t,
            (0.5 * t - 0.5) * t * t,
        ],
        axis=1,
    )
    neighbours = np.clip(start[:, np.newaxis] + np.arange(-1, _TAPS - 1), 0, size - 1)
    return neighbours.astype(np.int32), weights.astype(np.float32)
