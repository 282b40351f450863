"""A picture in memory: its pixels, and what must survive from its file."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from wamplex.core.model.development import Development
from wamplex.core.model.raw_file import RawFile
from wamplex.core.model.source import Source

_AS_SHOT = Development()
Pixels = NDArray[np.float32]
Depth = Literal[8, 16]


# Of a file, kept with its pixels; AVIF has its quantiser behind a long header.
FILE_START_BYTES = 4_000_000
# Lighter than this, what is opaque could hardly be seen on white: white ink, for example.
_LIGHT = 0.75


def ground_of(pixels: NDArray[Any], alpha: NDArray[Any], white: float = 1.0) -> float:
    """White, or black where what is opaque is light.

    Parameters
    ----------
    pixels : (H, W, C), black 0
    alpha : (H, W), clear 0
    white : largest value of pixels and alpha

    Returns
    -------
    1 for white, 0 for black.
    """
    opaque = float(alpha.sum(dtype=np.float64)) * pixels.shape[2]
    rows = zip(pixels, alpha, strict=True)  # row by row: a copy of a large picture would be as large again
    light = sum(float(np.vdot(colours.sum(axis=1, dtype=np.float64), clear)) for colours, clear in rows) / white
    return 0.0 if light > _LIGHT * opaque else 1.0


@dataclass(frozen=True)
class Metadata:
    """Blocks of description carried from file to file unread."""

    exif: bytes | None = None
    xmp: bytes | None = None
    iptc: bytes | None = None


@dataclass(frozen=True, eq=False)
class Picture:
    """Decoded pixels, upright, encoded in the picture's own profile.

    Attributes
    ----------
    pixels : (H, W, C) float32 in 0..1; C is 1 (grey) or 3 (red, green, blue)
    alpha : (H, W) float32 in 0..1, or None where the picture is opaque; not premultiplied
    depth : bits per channel of the file
    density_ppi : pixels per inch stated by the file, None where it states none
    profile : ICC profile, None stands for sRGB (or its grey counterpart)
    notices : sentences for the user about what reading changed
    source : the file it was decoded from, None where it comes from none
    file_start : the first bytes of the file, which tell its compression; empty without a file
    raw : of a raw file, what the sensor saw
    development : how ``pixels`` were made of it
    """

    pixels: Pixels
    alpha: Pixels | None = None
    depth: Depth = 8
    density_ppi: float | None = None
    profile: bytes | None = None
    metadata: Metadata = field(default_factory=Metadata)
    notices: tuple[str, ...] = ()
    source: Source | None = None
    file_start: bytes = b""
    raw: RawFile | None = None
    development: Development = _AS_SHOT

    @cached_property
    def ground(self) -> float:
        """What transparent places lie on where it is seen: 1 white, or 0 black where what is opaque is light."""
        if self.alpha is None:
            return 1.0
        return ground_of(self.pixels, self.alpha)

    @property
    def path(self) -> Path | None:
        """Path of its file."""
        return None if self.source is None else self.source.path

    @property
    def width(self) -> int:
        """Columns."""
        return int(self.pixels.shape[1])

    @property
    def height(self) -> int:
        """Rows."""
        return int(self.pixels.shape[0])

    @property
    def channels(self) -> int:
        """Channels including alpha: 1 to 4."""
        return int(self.pixels.shape[2]) + (self.alpha is not None)
