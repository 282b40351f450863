"""Colour as luma and two differences, which err independently of each other."""

from __future__ import annotations

import numpy as np

from wamplex.core.colour.luma import WEIGHTS, luma_plane
from wamplex.core.frames.sampling import Planes


def to_differences(pixels: Planes) -> Planes:
    """Luma, then red less luma and blue less luma; grey stays.

    Parameters
    ----------
    pixels : (H, W, C) float32, C is 1 or 3

    Returns
    -------
    (H, W, C) float32.
    """
    if pixels.shape[2] == 1:
        return pixels
    luma = luma_plane(pixels)
    return np.stack([luma, pixels[..., 0] - luma, pixels[..., 2] - luma], axis=2)


def from_differences(planes: Planes) -> Planes:
    """The way back.

    Parameters
    ----------
    planes : (H, W, C) float32 of `to_differences`

    Returns
    -------
    (H, W, C) float32.
    """
    if planes.shape[2] == 1:
        return planes
    luma, red, blue = (planes[..., n] for n in range(3))
    green = luma - (WEIGHTS[0] * red + WEIGHTS[2] * blue) / WEIGHTS[1]
    return np.stack([luma + red, green, luma + blue], axis=2)
