"""How the places of one image lie in another: affine maps, put together from simple ones."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

Number = TypeVar("Number", float, NDArray[np.float64])


@dataclass(frozen=True)
class Placement:
    """Maps (x, y) to (xx x + xy y + x0, yx x + yy y + y0).

    Places are in pixels; corners of pixels lie at whole numbers, their middles at halves.

    Examples
    --------
    >>> Placement.scaling(2, 2).then(Placement.translation(1, 0)).at(3.0, 4.0)
    (7.0, 8.0)
    """

    xx: float = 1.0
    xy: float = 0.0
    x0: float = 0.0
    yx: float = 0.0
    yy: float = 1.0
    y0: float = 0.0

    @staticmethod
    def translation(across: float, down: float) -> Placement:
        """By so many pixels."""
        return Placement(x0=across, y0=down)

    @staticmethod
    def scaling(across: float, down: float) -> Placement:
        """Times these, from the upper left corner."""
        return Placement(xx=across, yy=down)

    @staticmethod
    def quarter_turned(height: float) -> Placement:
        """A quarter turn clockwise of an image of this height, back into the first quadrant."""
        return Placement(xx=0.0, xy=-1.0, x0=height, yx=1.0, yy=0.0)

    @staticmethod
    def mirroring(width: float) -> Placement:
        """Left and right exchanged in an image of this width."""
        return Placement(xx=-1.0, x0=width)

    @staticmethod
    def rotation(degrees: float, width: float, height: float) -> Placement:
        """Clockwise around the middle of an image of these dimensions."""
        cos, sin = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
        x, y = width / 2, height / 2
        return Placement(cos, -sin, x - cos * x + sin * y, sin, cos, y - sin * x - cos * y)

    def at(self, x: Number, y: Number) -> tuple[Number, Number]:
        """Map places; arrays are broadcast."""
        return self.xx * x + self.xy * y + self.x0, self.yx * x + self.yy * y + self.y0

    def then(self, other: Placement) -> Placement:
        """This map, followed by another."""
        x0, y0 = other.at(self.x0, self.y0)
        return Placement(
            xx=other.xx * self.xx + other.xy * self.yx,
            xy=other.xx * self.xy + other.xy * self.yy,
            x0=x0,
            yx=other.yx * self.xx + other.yy * self.yx,
            yy=other.yx * self.xy + other.yy * self.yy,
            y0=y0,
        )

    @property
    def inverse(self) -> Placement:
        """The map back."""
        area = self.xx * self.yy - self.xy * self.yx
        xx, xy, yx, yy = self.yy / area, -self.xy / area, -self.yx / area, self.xx / area
        return Placement(xx, xy, -xx * self.x0 - xy * self.y0, yx, yy, -yx * self.x0 - yy * self.y0)

    @property
    def scale(self) -> float:
        """Length of what a step of one pixel to the right becomes."""
        return math.hypot(self.xx, self.yx)
