"""Rotates an image by any angle while resampling it to its final size, with the kernel of the upscaler."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.geometry.placement import Placement
from wamplex.core.model.picture import Pixels
from wamplex.core.upscale.stages.kernels import Kernel
from wamplex.core.upscale.stages.stage import FollowingStage, Stage, render_by_tiles

_TILE_PX = 256
_HELD_PX = 2048  # result pixels a side for which the source is held at a time
_Places = NDArray[np.float64]


def rotation_placement(
    turned: tuple[int, int], degrees: float, crop: Window, before: tuple[int, int], result: tuple[int, int]
) -> Placement:
    """Placement of a straightened result in its source.

    Parameters
    ----------
    turned : size that ``kept`` speaks of
    degrees : clockwise rotation
    crop : part of the straightened picture
    before, result : sizes of the turned picture as it is sampled, and of the result

    Returns
    -------
    From result pixels to pixels of what is sampled.
    """
    wide, high = turned
    in_crop = Placement.scaling(crop.width / result[0], crop.height / result[1])
    straightened = in_crop.then(Placement.translation(crop.x, crop.y))
    in_turned = straightened.then(Placement.rotation(-degrees, wide, high))
    return in_turned.then(Placement.scaling(before[0] / wide, before[1] / high))


class RotationStage(FollowingStage):
    """Samples ``before`` along the axes of the straightened picture.

    Each result pixel is a sum over the source pixels around its place, with weights that depend on the
    distances along the source's rows and columns (a product of two kernels), widened where the result is the
    smaller (antialiasing). Beyond the border the edge pixels go on.

    Parameters
    ----------
    before : the turned picture, at any scale
    place : where the result's pixels lie in ``before``
    width, height : of the result
    kernel : None copies the nearest pixel
    """

    def __init__(self, before: Stage, place: Placement, width: int, height: int, kernel: Kernel | None) -> None:
        self.width, self.height = width, height
        self._before = before
        self._place = place
        self._kernel = kernel
        self._spread = max(place.scale, 1.0)

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window, not clipped."""
        return render_by_tiles(window, _HELD_PX, lambda part: self._part(part, progress))

    def _part(self, part: Window, progress: Progress) -> Pixels:
        """What ``before`` must make is asked for at once: networks like large pieces."""
        needed = self._needed(part)
        pixels = np.ascontiguousarray(self._before.render(needed, progress))
        return render_by_tiles(part, _TILE_PX, lambda tile: self._tile(tile, pixels, needed, progress))

    def _needed(self, part: Window) -> Window:
        """The pixels of ``before`` that a part is made of: those around its corners' places."""
        corners = [Window(x, y, 1, 1) for x in (part.x, part.right - 1) for y in (part.y, part.bottom - 1)]
        places = [self._places(corner) for corner in corners]
        radius = 0.0 if self._kernel is None else self._kernel.radius
        margin = math.ceil(radius * self._spread) + 2
        columns, rows = ([float(place[i][0, 0]) for place in places] for i in (0, 1))
        x, y = math.floor(min(columns)) - margin, math.floor(min(rows)) - margin
        right, bottom = math.ceil(max(columns)) + margin, math.ceil(max(rows)) + margin
        wide, high = self._before.width, self._before.height
        # Beyond the border the edge pixels go on, so at least those are needed.
        x, y = min(max(x, 0), wide - 1), min(max(y, 0), high - 1)
        return Window(x, y, max(min(right, wide), x + 1) - x, max(min(bottom, high), y + 1) - y)

    def _tile(self, tile: Window, pixels: Pixels, area: Window, progress: Progress) -> Pixels:
        progress.check()
        across, down = self._places(tile)
        if self._kernel is None:
            columns, rows = np.floor(across).astype(np.int64)[None], np.floor(down).astype(np.int64)[None]
            column_weights = row_weights = np.ones((1, *across.shape), np.float32)
        else:
            columns, column_weights = self._weights(across, self._kernel)
            rows, row_weights = self._weights(down, self._kernel)
        np.clip(columns, 0, self._before.width - 1, out=columns)
        np.clip(rows, 0, self._before.height - 1, out=rows)
        flat = pixels.reshape(-1, pixels.shape[2])
        out = np.zeros((*across.shape, pixels.shape[2]), np.float32)
        for row, row_weight in zip((rows - area.y) * area.width, row_weights, strict=True):
            line = np.zeros_like(out)
            for column, weight in zip(columns - area.x, column_weights, strict=True):
                line += flat.take(row + column, axis=0) * weight[..., np.newaxis]
            out += line * row_weight[..., np.newaxis]
        return out

    def _places(self, tile: Window) -> tuple[_Places, _Places]:
        """Column and row in ``before`` of each pixel's middle, pixel middles lying at halves."""
        columns = np.arange(tile.x, tile.right, dtype=np.float64)[np.newaxis] + 0.5
        rows = np.arange(tile.y, tile.bottom, dtype=np.float64)[:, np.newaxis] + 0.5
        return self._place.at(columns, rows)

    def _weights(self, places: _Places, kernel: Kernel) -> tuple[NDArray[np.int64], NDArray[np.float32]]:
        """The pixels along one axis that each place is made of, (n, h, w), and weights that sum to 1."""
        radius = kernel.radius * self._spread
        count = math.ceil(2 * radius)
        first = np.floor(places - radius + 0.5).astype(np.int64)
        positions = first[np.newaxis] + np.arange(count + 1)[:, np.newaxis, np.newaxis]
        weights = kernel.weight((positions + 0.5 - places[np.newaxis]) / self._spread)
        return positions, (weights / weights.sum(axis=0)).astype(np.float32)
