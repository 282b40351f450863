"""What a decoder hands over: samples as the file holds them, a quarter to a half of the size of a `Picture`."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wamplex.core.model.picture import Picture, Pixels

NO_PIXELS: Pixels = np.empty((0, 0, 3), np.float32)


@dataclass(frozen=True, eq=False)
class Decoded:
    """A decoded file.

    Attributes
    ----------
    picture : all but the pixels; with its pixels where ``samples`` is None
    samples : (H, W, C) uint8 or uint16, upright
    has_alpha : whether the last channel is transparency
    """

    picture: Picture
    samples: NDArray[Any] | None = None
    has_alpha: bool = False

    def to_picture(self) -> Picture:
        """The picture with pixels in 0..1."""
        if self.samples is None:
            return self.picture
        # Multiplying by a float32 reciprocal would miss some values by one rounding; dividing does not.
        maximum = np.float32(65535 if self.samples.dtype == np.uint16 else 255)
        pixels: Pixels = np.divide(self.samples, maximum, dtype=np.float32)
        alpha = None
        if self.has_alpha:
            alpha = np.ascontiguousarray(pixels[..., -1])
            pixels = np.ascontiguousarray(pixels[..., :-1])
            if bool((alpha == 1.0).all()):
                alpha = None
        return replace(self.picture, pixels=pixels, alpha=alpha)
