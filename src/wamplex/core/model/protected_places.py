"""Places to which no texture is added, such as faces."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from wamplex.core.base.frozen_model import FrozenModel
from wamplex.core.base.window import Window
from wamplex.core.geometry.framing import Framing, to_framed

_SOFT = 0.35  # of the radius, over which what is spared fades out


class ProtectedPlaces(FrozenModel):
    """A round place.

    Attributes
    ----------
    x, y : its middle, as shares of the picture's width and height
    radius : as a share of the picture's width
    """

    x: float = Field(ge=-1, le=2)
    y: float = Field(ge=-1, le=2)
    radius: float = Field(gt=0, le=1)


def framed_places(
    protected: tuple[ProtectedPlaces, ...], framing: Framing, width: int, height: int
) -> tuple[ProtectedPlaces, ...]:
    """Map places of a source of this size into the framed picture."""
    cropped_width = framing.window(width, height).width
    places = []
    for one in protected:
        x, y = to_framed(framing, width, height, one.x, one.y)
        radius = one.radius * width / cropped_width
        if -1 <= x <= 2 and -1 <= y <= 2 and radius <= 1:
            places.append(ProtectedPlaces(x=x, y=y, radius=radius))
    return tuple(places)


def remaining_weight(
    protected: tuple[ProtectedPlaces, ...], width: int, height: int, window: Window
) -> NDArray[np.float32]:
    """1 outside of all places, 0 inside, soft between: (window.height, window.width) float32.

    Parameters
    ----------
    width, height : of the whole picture
    window : in its pixels
    """
    weight = np.ones((window.height, window.width), np.float32)
    for one in protected:
        radius = one.radius * width
        across = (np.arange(window.x, window.right) + 0.5 - one.x * width) / radius
        down = (np.arange(window.y, window.bottom) + 0.5 - one.y * height) / radius
        distance = np.sqrt(across[np.newaxis] ** 2 + down[:, np.newaxis] ** 2)
        weight *= np.clip((distance - 1) / _SOFT, 0, 1).astype(np.float32)
    return weight
