"""What a raw file holds: the sensor's mosaic, how the camera saw colours, and what it noted."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.array_types import Matrix
from wamplex.core.base.lru_cache import LruCache
from wamplex.core.base.window import Window
from wamplex.core.model.sensor_noise import SensorNoise

# A development is as large as the picture itself.
_KEPT = 3
Triple = tuple[float, float, float]
_Number = TypeVar("_Number", bound=np.generic)


@dataclass(frozen=True, eq=False)
class Mosaic:
    """Sensor values behind a Bayer filter, as they lie on the sensor.

    Attributes
    ----------
    values : (H, W) uint16, the active area alone
    pattern : channel of each pixel of a cell, row by row: 0 red, 1 green, 2 blue
    black : level of each pixel of a cell
    white : level from which on a pixel is cut off
    """

    values: NDArray[np.uint16]
    pattern: tuple[int, int, int, int]
    black: tuple[float, float, float, float]
    white: float

    @property
    def width(self) -> int:
        """Columns."""
        return int(self.values.shape[1])

    @property
    def height(self) -> int:
        """Rows."""
        return int(self.values.shape[0])

    @property
    def red_at(self) -> tuple[int, int]:
        """Column and row of the first red pixel: the cells that begin with red lie there."""
        place = self.pattern.index(0)
        return place % 2, place // 2

    def turned(self, turns: int, flipped: bool) -> Mosaic:
        """The same sensor turned clockwise by quarters, then left and right exchanged."""
        values = _turned(self.values, turns, flipped)
        # Which pixel of a cell comes first then depends on whether the sides are odd.
        small = np.indices((2 + self.height % 2, 2 + self.width % 2)) % 2
        places = _turned(2 * small[0] + small[1], turns, flipped)[:2, :2].ravel()
        a, b, c, d = (int(place) for place in places)
        pattern = (self.pattern[a], self.pattern[b], self.pattern[c], self.pattern[d])
        black = (self.black[a], self.black[b], self.black[c], self.black[d])
        return Mosaic(values, pattern, black, self.white)

    def linear(self, window: Window, gains: Triple = (1.0, 1.0, 1.0)) -> NDArray[np.float32]:
        """A part of the mosaic, black at 0 and white at the gain of the pixel's colour: (h, w) float32."""
        part = self.values[window.y : window.bottom, window.x : window.right]
        result = np.empty(part.shape, np.float32)
        for place in range(4):
            row, column = (place // 2 - window.y) % 2, (place % 2 - window.x) % 2
            scale = np.float32(gains[self.pattern[place]] / (self.white - self.black[place]))
            samples = part[row::2, column::2].astype(np.float32)
            result[row::2, column::2] = (samples - np.float32(self.black[place])) * scale
        return result


def _turned(pixels: NDArray[_Number], turns: int, flipped: bool) -> NDArray[_Number]:
    turned = np.rot90(pixels, -turns)
    return turned[:, ::-1] if flipped else turned


@dataclass(frozen=True)
class Exposure:
    """What the camera noted of the picture; empty or 0 where it noted nothing."""

    camera: str = ""
    lens: str = ""
    iso: float = 0.0
    exposure_s: float = 0.0
    aperture: float = 0.0
    focal_mm: float = 0.0


@dataclass(frozen=True, eq=False)
class CameraColours:
    """How a camera sees colours.

    Attributes
    ----------
    matrices : (3, 3) from CIE XYZ to the camera's own red, green and blue, each with the colour temperature
        of the light in kelvin that it was measured under
    """

    matrices: tuple[tuple[float, Matrix], ...]


@dataclass(frozen=True, eq=False)
class RawFile:
    """A raw file, read.

    Attributes
    ----------
    mosaic : None where the sensor has no Bayer filter, or the file holds developed colours
    developed : (H, W, 3) uint16 or float32, the camera's colours as LibRaw or a network made them, balanced
        as shot, on the sensor's own sides
    white : value of ``developed`` at which green is cut off
    gains : white balance as shot, of red, green (1) and blue
    turns : quarter turns clockwise that make it upright
    cache : what was computed from it last
    preview : the JPEG that the camera put into the file
    noise : of red, green and blue before the balance, as the file states it; None where it does not
    """

    developed: NDArray[np.uint16] | NDArray[np.float32]
    white: float
    gains: Triple
    colours: CameraColours
    mosaic: Mosaic | None = None
    turns: int = 0
    noise: tuple[SensorNoise, SensorNoise, SensorNoise] | None = None
    shot: Exposure = field(default_factory=Exposure)
    preview: bytes | None = None
    cache: LruCache = field(default_factory=lambda: LruCache(_KEPT))
