"""Thumbnails compressed in memory: of a thousand in the tray, ten are visible."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np
import pyvips

from wamplex.core.base.array_types import Rgb8
from wamplex.core.base.lazy_imports import cv2

_AT_HAND = 64
_QUALITY = 95  # to be seen small; nothing is measured on them


@dataclass(frozen=True, eq=False)
class CompressedThumbnail:
    """A small picture as JPEG in memory: a sixth of its pixels' bytes.

    Attributes
    ----------
    shape : height, width, channels
    """

    shape: tuple[int, int, int]
    data: bytes = field(repr=False)

    @property
    def pixels(self) -> Rgb8:
        """(h, w, 3) uint8; the same array as long as it is among those looked at last."""
        return _unpacked(self)


Thumbnail = Rgb8 | CompressedThumbnail


def compress_thumbnail(pixels: Rgb8) -> CompressedThumbnail:
    """Pack a small picture (h, w, 3) uint8."""
    height, width, channels = pixels.shape
    image = pyvips.Image.new_from_array(np.ascontiguousarray(pixels)).copy(interpretation="srgb")
    data = image.jpegsave_buffer(Q=_QUALITY, subsample_mode="off")
    return CompressedThumbnail((height, width, channels), bytes(data))


def thumbnail_pixels(thumbnail: Thumbnail) -> Rgb8:
    """(h, w, 3) uint8 of a thumbnail, packed or not."""
    return thumbnail.pixels if isinstance(thumbnail, CompressedThumbnail) else thumbnail


@lru_cache(maxsize=_AT_HAND)
def _unpacked(thumbnail: CompressedThumbnail) -> Rgb8:
    # On the window's thread mostly, and libvips would start threads there that are as eager as that, and do
    # the work of others with them later.
    data = np.frombuffer(thumbnail.data, np.uint8)
    result: Rgb8 = cv2.imdecode(data, cv2.IMREAD_COLOR_RGB)
    return result
