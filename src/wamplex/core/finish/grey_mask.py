"""Grey pictures that masks begin with: 8-bit PNGs over the whole upright source."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from wamplex.core.base.errors import RecipeError
from wamplex.core.base.lazy_imports import cv2
from wamplex.core.model.picture import Pixels

_LARGEST_PX = 500_000_000


def encode_grey(mask: Pixels) -> bytes:
    """A mask (H, W) in 0..1 as the bytes of a PNG."""
    levels = np.rint(np.clip(mask, 0, 1) * 255).astype(np.uint8)
    done, data = cv2.imencode(".png", levels)
    assert done
    return bytes(data)


@lru_cache(maxsize=16)
def decode_grey(data: bytes, width: int, height: int) -> Pixels:
    """The mask that some bytes hold, at the source's size: (height, width, 1) float32 in 0..1.

    Raises
    ------
    RecipeError : when they hold no picture
    """
    levels = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_GRAYSCALE)
    if levels is None or levels.size > _LARGEST_PX:
        raise RecipeError("The grey picture of a mask is damaged.")
    if levels.shape != (height, width):
        shrinks = levels.shape[0] > height
        way = cv2.INTER_AREA if shrinks else cv2.INTER_LINEAR
        levels = cv2.resize(levels, (width, height), interpolation=way)
    grey: Pixels = (levels.astype(np.float32) / np.float32(255))[..., None]
    grey.flags.writeable = False
    return grey
