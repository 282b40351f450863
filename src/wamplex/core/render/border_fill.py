"""Adds pixels around an image: bare paper, or something made from the picture."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.lazy_imports import cv2
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.geometry.sheet import Ring
from wamplex.core.model.picture import Pixels
from wamplex.core.upscale.stages.stage import ArrayStage, FollowingStage, Stage

# Blurred and filled surroundings hold nothing fine; they are made this large and enlarged smoothly.
_SMALL_PX = 384
_BLUR_SHARE = 0.035
_INPAINT_REACH_PX = 5
_Places = NDArray[np.int64]


class BorderStage(FollowingStage):
    """An image with a ring around it.

    "mirrored" folds the picture over at its edge, "stretched" draws its outermost pixels out, "blurred"
    blurs the mirrored picture, "plain" has the mean colour of the edge, "filled" continues lines and tones
    by inpainting (Telea 2004, as in OpenCV), and "paper" is white.

    Parameters
    ----------
    small : makes a small version of the image, (h, w, C) float32, of any size; called once, when it is needed
    """

    def __init__(self, before: Stage, ring: Ring, small: Callable[[int], Pixels]) -> None:
        self.width = before.width + ring.left + ring.right
        self.height = before.height + ring.top + ring.bottom
        self._before = before
        self._ring = ring
        self._small_of = small

    @property
    def origin(self) -> tuple[float, float]:
        """Outside of the picture by what is put around it."""
        x, y = self._before.origin
        return x - self._ring.left / self.scale, y - self._ring.top / self.scale

    @property
    def scale(self) -> float:
        """That of the image."""
        return self._before.scale

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window."""
        inner = Window(self._ring.left, self._ring.top, self._before.width, self._before.height)
        x0, y0 = max(window.x, inner.x), max(window.y, inner.y)
        x1, y1 = min(window.right, inner.right), min(window.bottom, inner.bottom)
        if (x0, y0, x1, y1) == (window.x, window.y, window.right, window.bottom):
            return self._before.render(self._moved(window), progress)
        if self._ring.filling in ("mirrored", "stretched"):
            return self._folded(window, progress)
        out = self._ground(window)
        if x0 < x1 and y0 < y1:
            part = Window(x0, y0, x1 - x0, y1 - y0)
            place = (slice(y0 - window.y, y1 - window.y), slice(x0 - window.x, x1 - window.x))
            out[place] = self._before.render(self._moved(part), progress)
        return out

    def small(self, side: int) -> Pixels:
        """The whole with its ring, at most about ``side`` pixels a side: (h, w, C)."""
        inner = self._small_of(side)
        scale = inner.shape[1] / self._before.width
        left, top, right, bottom = (
            round(n * scale) for n in (self._ring.left, self._ring.top, self._ring.right, self._ring.bottom)
        )
        height, width = inner.shape[:2]
        array_stage = ArrayStage(inner, Window(0, 0, width, height), width, height)
        ring = Ring(left, top, right, bottom, self._ring.filling)
        again = BorderStage(array_stage, ring, lambda _side: inner)
        return again.render(Window(0, 0, again.width, again.height), Progress())

    def _moved(self, window: Window) -> Window:
        return Window(window.x - self._ring.left, window.y - self._ring.top, window.width, window.height)

    def _folded(self, window: Window, progress: Progress) -> Pixels:
        fold = _mirrored if self._ring.filling == "mirrored" else _drawn_out
        columns = fold(np.arange(window.x, window.right) - self._ring.left, self._before.width)
        rows = fold(np.arange(window.y, window.bottom) - self._ring.top, self._before.height)
        x, y = int(columns.min()), int(rows.min())
        needed = Window(x, y, int(columns.max()) - x + 1, int(rows.max()) - y + 1)
        result: Pixels = self._before.render(needed, progress)[np.ix_(rows - y, columns - x)]
        return result

    def _ground(self, window: Window) -> Pixels:
        """The ring's pixels, also where the image will cover them."""
        if self._ring.filling in ("blurred", "filled"):
            return self._enlarged_ground(window)
        colour = self._plain if self._ring.filling == "plain" else np.ones_like(self._plain)
        return np.broadcast_to(colour, (window.height, window.width, len(colour))).copy()

    @cached_property
    def _small(self) -> Pixels:
        return np.ascontiguousarray(self._small_of(_SMALL_PX))

    @cached_property
    def _plain(self) -> Pixels:
        """Mean colour of the image's edge."""
        small = self._small
        edge = np.concatenate([small[0], small[-1], small[:, 0], small[:, -1]])
        result: Pixels = edge.mean(axis=0, dtype=np.float32)
        return result

    @cached_property
    def _small_ground(self) -> Pixels:
        """The whole with its ring, small: (h, w, C)."""
        small, ring = self._small, self._ring
        per_x, per_y = small.shape[1] / self._before.width, small.shape[0] / self._before.height
        left, right = (max(1, round(n * per_x)) for n in (ring.left, ring.right))
        top, bottom = (max(1, round(n * per_y)) for n in (ring.top, ring.bottom))
        columns = np.arange(-left, small.shape[1] + right)
        rows = np.arange(-top, small.shape[0] + bottom)
        folded = small[np.ix_(_mirrored(rows, small.shape[0]), _mirrored(columns, small.shape[1]))]
        if self._ring.filling == "blurred":
            blurred = cv2.GaussianBlur(folded, (0, 0), _BLUR_SHARE * max(folded.shape[:2]))
            return np.asarray(blurred, np.float32).reshape(folded.shape)
        return _inpainted(folded, Window(left, top, small.shape[1], small.shape[0]))

    def _enlarged_ground(self, window: Window) -> Pixels:
        """Smoothly enlarged, by absolute place, so that windows agree."""
        ground, ring, small = self._small_ground, self._ring, self._small
        per_x, per_y = small.shape[1] / self._before.width, small.shape[0] / self._before.height
        left, top = max(1, round(ring.left * per_x)), max(1, round(ring.top * per_y))
        x = (np.arange(window.x, window.right) + 0.5 - ring.left) * per_x + left
        y = (np.arange(window.y, window.bottom) + 0.5 - ring.top) * per_y + top
        return _bilinear(ground, x - 0.5, y - 0.5)


def _mirrored(places: _Places, count: int) -> _Places:
    """Folded back and forth into 0 .. count - 1, the edge pixel repeated."""
    period = 2 * count
    folded = np.mod(places, period)
    result: _Places = np.where(folded < count, folded, period - 1 - folded)
    return result


def _drawn_out(places: _Places, count: int) -> _Places:
    result: _Places = np.clip(places, 0, count - 1)
    return result


def _inpainted(folded: Pixels, valid_area: Window) -> Pixels:
    """Fill everything outside ``known`` by OpenCV's inpainting."""
    mask = np.full(folded.shape[:2], 255, np.uint8)
    mask[valid_area.y : valid_area.bottom, valid_area.x : valid_area.right] = 0
    planes = []
    for channel in range(folded.shape[2]):
        levels = np.rint(np.clip(folded[..., channel], 0, 1) * 255).astype(np.uint8)
        planes.append(cv2.inpaint(levels, mask, _INPAINT_REACH_PX, cv2.INPAINT_TELEA))
    result: Pixels = np.stack(planes, axis=2).astype(np.float32) / np.float32(255)
    return result


def _bilinear(image: Pixels, x: NDArray[np.float64], y: NDArray[np.float64]) -> Pixels:
    """Samples at columns x and rows y, edge pixels going on: (len(y), len(x), C)."""
    x, y = np.clip(x, 0, image.shape[1] - 1), np.clip(y, 0, image.shape[0] - 1)
    column, row = np.floor(x).astype(np.int64), np.floor(y).astype(np.int64)
    right, below = np.minimum(column + 1, image.shape[1] - 1), np.minimum(row + 1, image.shape[0] - 1)
    weight_x = (x - column).astype(np.float32)[None, :, None]
    weight_y = (y - row).astype(np.float32)[:, None, None]
    upper = image[np.ix_(row, column)] * (1 - weight_x) + image[np.ix_(row, right)] * weight_x
    lower = image[np.ix_(below, column)] * (1 - weight_x) + image[np.ix_(below, right)] * weight_x
    result: Pixels = upper * (1 - weight_y) + lower * weight_y
    return result
