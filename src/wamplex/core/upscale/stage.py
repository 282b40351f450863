"""A stage makes any window of an image of known size; upscalers are chains of stages.

Each stage asks the one before it for just the pixels (with the halo) that a window needs.
That is what makes every window equal to the same window of the whole.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

import numpy as np

from wamplex.core.picture import Picture, Pixels
from wamplex.core.progress import Progress
from wamplex.core.window import Window


class Stage(Protocol):
    """One step of an enlargement."""

    @property
    def width(self) -> int:
        """Columns of the whole image this stage makes."""

    @property
    def height(self) -> int:
        """Rows of the whole image this stage makes."""

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels (window.height, window.width, C) float32; may lie slightly outside 0..1."""


class SourceStage:
    """The picture itself; colour premultiplied by alpha, which comes last."""

    def __init__(self, picture: Picture) -> None:
        self._picture = picture
        self.width = picture.width
        self.height = picture.height

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Source pixels of the window."""
        progress.check()
        part = (slice(window.y, window.bottom), slice(window.x, window.right))
        pixels = self._picture.pixels[part]
        if self._picture.alpha is None:
            return pixels
        alpha = self._picture.alpha[part][..., np.newaxis]
        return np.concatenate([pixels * alpha, alpha], axis=2)


class HeldStage:
    """Pixels already made of a part of an image; only windows inside that part can be asked for."""

    def __init__(self, pixels: Pixels, region: Window, width: int, height: int) -> None:
        self.width, self.height = width, height
        self._pixels = pixels
        self._region = region

    def render(self, window: Window, progress: Progress) -> Pixels:
        """The pixels of the window as they are."""
        top, left = window.y - self._region.y, window.x - self._region.x
        return self._pixels[top : top + window.height, left : left + window.width]


def by_tiles(window: Window, side: int, make: Callable[[Window], Pixels]) -> Pixels:
    """A window put together from tiles of at most ``side`` pixels a side."""
    out: Pixels | None = None
    for tile in window.tiles(side, side):
        pixels = make(tile)
        if out is None:
            out = np.empty((window.height, window.width, pixels.shape[2]), np.float32)
        y, x = tile.y - window.y, tile.x - window.x
        out[y : y + tile.height, x : x + tile.width] = pixels
    assert out is not None
    return out
