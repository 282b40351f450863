"""Writes a mosaic as a DNG (Adobe Digital Negative Specification 1.4; TIFF/EP, ISO 12234-2)."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import tifffile

from wamplex.core.model.sensor_noise import SensorNoise
from wamplex.core.raw.dng_tags import rationals

_BYTE, _ASCII, _SHORT, _LONG, _RATIONAL, _SRATIONAL, _DOUBLE = 1, 2, 3, 4, 5, 10, 12
_D65_LIGHT = 21
_COLOUR_FILTER_ARRAY = 32803


@dataclass(frozen=True)
class MosaicTags:
    """What is said of a mosaic; names as in the specification.

    Attributes
    ----------
    from_xyz : ColorMatrix1, under D65
    neutral : AsShotNeutral: what white looks like to the camera
    noise : NoiseProfile, left out where it is None
    """

    from_xyz: np.ndarray
    neutral: tuple[float, float, float]
    pattern: tuple[int, int, int, int] = (0, 1, 1, 2)
    black: tuple[int, int, int, int] = (512, 512, 512, 512)
    white: int = 16383
    noise: SensorNoise | None = None
    orientation: int = 1
    model: str = "Simulated"
    iso: int = 0
    exposure_s: float = 0.0


def write_mosaic(path: Path, mosaic: np.ndarray, tags: MosaicTags) -> None:
    """Write (H, W) uint16 as one strip, uncompressed."""
    extra = [
        (274, _SHORT, 1, tags.orientation, True),
        (33421, _SHORT, 2, (2, 2), True),
        (33422, _BYTE, 4, bytes(tags.pattern), True),
        (50706, _BYTE, 4, bytes((1, 4, 0, 0)), True),
        (50707, _BYTE, 4, bytes((1, 1, 0, 0)), True),
        (50708, _ASCII, 0, tags.model, True),
        (50713, _SHORT, 2, (2, 2), True),
        (50714, _RATIONAL, 4, [n for level in tags.black for n in (level, 1)], True),
        (50717, _LONG, 1, tags.white, True),
        (50721, _SRATIONAL, 9, rationals(tags.from_xyz.ravel()), True),
        (50728, _RATIONAL, 3, rationals(tags.neutral), True),
        (50778, _SHORT, 1, _D65_LIGHT, True),
    ]
    if tags.noise is not None:
        extra.append((51041, _DOUBLE, 6, (tags.noise.shot, tags.noise.read) * 3, True))
    if tags.iso:
        extra.append((34855, _SHORT, 1, tags.iso, True))
    if tags.exposure_s:
        extra.append((33434, _RATIONAL, 1, rationals([tags.exposure_s]), True))
    tifffile.imwrite(
        path,
        mosaic,
        photometric=_COLOUR_FILTER_ARRAY,
        extratags=extra,
        metadata=None,
        software="Wamplex",
        datetime="2026:11:27 19:30:00",
    )
