"""How much of a picture is clipped to white or black."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wamplex.core.base.array_types import Rgb8
from wamplex.core.base.lazy_imports import cv2

_WHITE, _BLACK = 254, 1


@dataclass(frozen=True)
class Clipping:
    """Shares of the picture, 0 to 1, and where it is worst.

    Attributes
    ----------
    white, black : share of pixels in which every channel is cut off
    x, y : middle of the densest place of either, as a share of width and height
    """

    white: float
    black: float
    x: float
    y: float


def measure_clipping(shown: Rgb8) -> Clipping:
    """Measure an sRGB picture, (H, W, 3) uint8.

    A shrunk picture will do: areas of several pixels are what shows in a print.
    """
    white = shown.min(axis=2) >= _WHITE
    black = shown.max(axis=2) <= _BLACK
    either = cv2.blur((white | black).astype(np.float32), (31, 31))
    row, column = np.unravel_index(int(np.argmax(either)), either.shape)
    height, width = either.shape
    return Clipping(
        float(white.mean()), float(black.mean()), float((column + 0.5) / width), float((row + 0.5) / height)
    )
