"""A stage makes any window of an image of known size; upscalers are chains of stages.

Each stage asks the one before it for just the pixels (with the halo) that a window needs.
That is what makes every window equal to the same window of the whole.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal, Protocol

import numpy as np

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture, Pixels

ChannelLayout = Literal["grey", "grey+a", "rgb", "rgb+a", "cfa"]
_LAYOUTS: dict[int, ChannelLayout] = {1: "grey", 2: "grey+a", 3: "rgb", 4: "rgb+a"}


def channel_layout(picture: Picture) -> ChannelLayout:
    """The channels of a picture, alpha last."""
    return _LAYOUTS[picture.channels]


class Stage(Protocol):
    """One step of an enlargement.

    `ChannelLayout` says what its channels are: grey or red, green and blue, with alpha or without, or the mosaic of
    a sensor with one value a pixel.
    """

    @property
    def layout(self) -> ChannelLayout:
        """Layout of its channels."""

    @property
    def origin(self) -> tuple[float, float]:
        """Column and row of the (turned) source that its upper left corner lies at."""

    @property
    def scale(self) -> float:
        """How many of its pixels lie along one of the source."""

    @property
    def width(self) -> int:
        """Columns of the whole image this stage makes."""

    @property
    def height(self) -> int:
        """Rows of the whole image this stage makes."""

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels (window.height, window.width, C) float32; may lie slightly outside 0..1.

        Whoever asked may write to them, unless they are marked as not to be written to: then they are kept.
        """


class FollowingStage:
    """What most stages have of the one before them, which they keep as ``_before``."""

    width: int
    _before: Stage

    @property
    def layout(self) -> ChannelLayout:
        """The same channels."""
        return self._before.layout

    @property
    def origin(self) -> tuple[float, float]:
        """The same corner."""
        return self._before.origin

    @property
    def scale(self) -> float:
        """In proportion to the width."""
        return self._before.scale * self.width / self._before.width


class SourceStage:
    """The picture itself; colour premultiplied by alpha, which comes last.

    Parameters
    ----------
    origin : where it was cut out of the turned source
    """

    scale = 1.0

    def __init__(self, picture: Picture, origin: tuple[float, float] = (0.0, 0.0)) -> None:
        self.layout = channel_layout(picture)
        self.origin = origin
        self._picture = picture
        self.width = picture.width
        self.height = picture.height

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Source pixels of the window."""
        progress.check()
        part = (slice(window.y, window.bottom), slice(window.x, window.right))
        pixels = self._picture.pixels[part]
        if self._picture.alpha is None:
            return cache_stage(pixels)
        alpha = self._picture.alpha[part][..., np.newaxis]
        return np.concatenate([pixels * alpha, alpha], axis=2)


class ArrayStage:
    """Pixels already made of a part of an image; only windows inside that part can be asked for."""

    origin, scale = (0.0, 0.0), 1.0

    def __init__(self, pixels: Pixels, region: Window, width: int, height: int) -> None:
        self.layout = _LAYOUTS[pixels.shape[2]]
        self.width, self.height = width, height
        self._pixels = pixels
        self._region = region

    def render(self, window: Window, progress: Progress) -> Pixels:
        """The pixels of the window as they are."""
        top, left = window.y - self._region.y, window.x - self._region.x
        return cache_stage(self._pixels[top : top + window.height, left : left + window.width])


def cache_stage(pixels: Pixels) -> Pixels:
    """The same pixels, marked as not to be written to."""
    view = pixels.view()
    view.flags.writeable = False
    return view


def render_by_tiles(window: Window, side: int, make: Callable[[Window], Pixels]) -> Pixels:
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
