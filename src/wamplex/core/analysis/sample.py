"""A picture as measuring sees it: the middle at full size, and the whole shrunk."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.array_types import Luma, Rgb8
from wamplex.core.base.filters import block_means
from wamplex.core.base.lazy_imports import cv2
from wamplex.core.base.window import Window
from wamplex.core.colour.convert import to_srgb
from wamplex.core.colour.luma import luma_plane
from wamplex.core.model.picture import Picture

# Of the middle, which is enough to know noise, blur and compression by.
_MIDDLE_PX = 1280
_SHOWN_PX, _SMALL_PX = 1280, 512
_GRID_PX = 8


@dataclass(frozen=True)
class Sample:
    """The views of one picture that the measurements share; each is made when first looked at."""

    picture: Picture

    @cached_property
    def seen(self) -> Picture:
        """The picture without transparency, as it is seen; the colour under transparent places counts nowhere."""
        return on_contrasting_ground(self.picture)

    @cached_property
    def centre(self) -> Window:
        """Window of `luma` in the picture, aligned to the JPEG grid."""
        width, height = self.picture.width, self.picture.height
        x, y = (max(0, (n - _MIDDLE_PX) // 2) // _GRID_PX * _GRID_PX for n in (width, height))
        return Window(x, y, min(width - x, _MIDDLE_PX), min(height - y, _MIDDLE_PX))

    @cached_property
    def luma(self) -> Luma:
        """(h, w) in 8-bit levels, 0 to 255, of the middle at full size."""
        m = self.centre
        return luma_plane(self.seen.pixels[m.y : m.bottom, m.x : m.right]) * np.float32(255)

    @cached_property
    def colour(self) -> NDArray[np.float32]:
        """(h, w, 3) in 0..1 of the same pixels, encoded as they are."""
        m = self.centre
        pixels = self.seen.pixels[m.y : m.bottom, m.x : m.right]
        return pixels if pixels.shape[2] == 3 else np.repeat(pixels[..., :1], 3, axis=2)

    @cached_property
    def shown(self) -> Rgb8:
        """(h, w, 3) sRGB, at most 1280 pixels a side."""
        return shrunk(self.seen, _SHOWN_PX)

    @cached_property
    def small(self) -> Rgb8:
        """(h, w, 3) sRGB, at most 512 pixels a side."""
        height, width = self.shown.shape[:2]
        scale = min(1.0, _SMALL_PX / max(height, width))
        size = (max(1, round(width * scale)), max(1, round(height * scale)))
        result: Rgb8 = cv2.resize(self.shown, size, interpolation=cv2.INTER_AREA)
        return result


def on_contrasting_ground(picture: Picture) -> Picture:
    """Composite a picture on its ground: white ink on white cannot be seen.

    Parameters
    ----------
    picture : the decoded picture

    Returns
    -------
    The picture without alpha; the very same where it has none.
    """
    if picture.alpha is None:
        return picture
    alpha = picture.alpha[..., np.newaxis]
    ground = np.float32(picture.ground)
    return replace(picture, pixels=picture.pixels * alpha + ground * (1 - alpha), alpha=None)


def shrunk(picture: Picture, side: int) -> Rgb8:
    """(h, w, 3) sRGB of a picture without alpha, at most ``side`` pixels a side."""
    pixels = picture.pixels
    full = min(max(pixels.shape[:2]) // side, *pixels.shape[:2])  # a thin strip keeps a pixel of width
    if full > 1:  # by whole pixels first, which is ten times as fast
        pixels = block_means(pixels, full)
    scale = side / max(pixels.shape[:2])
    if scale < 1:
        size = (max(1, round(pixels.shape[1] * scale)), max(1, round(pixels.shape[0] * scale)))
        pixels = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
        pixels = pixels.reshape(*pixels.shape[:2], -1)
    result: Rgb8 = np.rint(to_srgb(pixels, picture) * np.float32(255)).astype(np.uint8)
    return np.ascontiguousarray(result)
