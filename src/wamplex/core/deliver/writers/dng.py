"""Writes linear DNG (Adobe Digital Negative Specification 1.4): a preview, and the picture behind it."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import tifffile
from numpy.typing import NDArray

from wamplex.core.deliver.metadata.exif import append_directories, parse_exif
from wamplex.core.deliver.request.file_description import FileDescription
from wamplex.core.deliver.request.linear_light import LinearColours
from wamplex.core.deliver.request.samples import Bands, Samples
from wamplex.core.deliver.writers.tiff import description_tags, strip_rows, strips
from wamplex.core.raw.dng_tags import LIGHT_SOURCES, rationals

_BYTE, _ASCII, _SHORT, _LONG, _RATIONAL, _SRATIONAL = 1, 2, 3, 4, 5, 10
_LINEAR_RAW = 34892
_REDUCED, _WHOLE = 1, 0
_CLASSIC_BYTES = 4_000_000_000
_PREVIEW_PX = 512
_NAME = "Wamplex linear"


def write_dng(path: Path, bands: Bands, about: FileDescription) -> None:
    """Write a DNG from bands of rows of linear light.

    The preview comes first in the file but is known last: its place is kept, and it is written into it.
    """
    assert about.linear is not None
    wide = about.width * about.height * 6 > _CLASSIC_BYTES
    rows = strip_rows(about)
    preview = _Preview(about)
    exif = parse_exif(about.metadata.exif)
    with tifffile.TiffWriter(path, bigtiff=wide, byteorder="<") as tiff:
        tiff.write(
            preview.pixels,
            photometric="rgb",
            subfiletype=_REDUCED,
            subifds=1,
            resolution=(about.density_ppi, about.density_ppi),
            resolutionunit="inch",
            software="Wamplex",
            metadata=None,
            extratags=[*_colour_tags(about.linear), *description_tags(about, exif)],
        )
        tiff.write(
            (strip.tobytes() for strip in strips(preview.watching(bands), rows)),
            shape=(about.height, about.width, 3),
            dtype="uint16",
            photometric=_LINEAR_RAW,
            planarconfig="contig",
            rowsperstrip=rows,
            subfiletype=_WHOLE,
            metadata=None,
            extratags=_level_tags(),
        )
    preview.put_into(path)
    append_directories(path, exif)


class _Preview:
    """A small picture that is gathered from the bands as they pass."""

    def __init__(self, about: FileDescription) -> None:
        self._step = max(1, -(-max(about.width, about.height) // _PREVIEW_PX))
        height, width = -(-about.height // self._step), -(-about.width // self._step)
        self.pixels: NDArray[np.uint8] = np.zeros((height, width, 3), np.uint8)
        self._neutral = np.asarray(about.linear.neutral if about.linear else (1, 1, 1), np.float32)

    def watching(self, bands: Bands) -> Iterator[Samples]:
        """The same bands."""
        top = 0
        for band in bands:
            first = -top % self._step
            sampled = band[first :: self._step, :: self._step].astype(np.float32) / 65535
            tone = np.clip(sampled / self._neutral, 0, 1) ** (1 / 2.2)
            row = (top + first) // self._step
            self.pixels[row : row + len(tone)] = np.rint(tone * 255).astype(np.uint8)
            top += len(band)
            yield band

    def put_into(self, path: Path) -> None:
        """Write it where its place was kept."""
        with tifffile.TiffFile(path) as tiff:
            (place, *_), (size, *_) = tiff.pages[0].dataoffsets, tiff.pages[0].databytecounts
        body = self.pixels.tobytes()
        if len(body) == size:
            with path.open("r+b") as file:
                file.seek(place)
                file.write(body)


def _colour_tags(colours: LinearColours) -> list[tuple[Any, ...]]:
    tags: list[tuple[Any, ...]] = [
        (50706, _BYTE, 4, bytes((1, 4, 0, 0)), True),
        (50707, _BYTE, 4, bytes((1, 1, 0, 0)), True),
        (50708, _ASCII, 0, _NAME, True),
        (50728, _RATIONAL, 3, rationals(colours.neutral), True),
        (50730, _SRATIONAL, 1, rationals([colours.exposure_ev]), True),
    ]
    for number, (kelvin, matrix) in enumerate(colours.matrices[:2]):
        nearest = min(LIGHT_SOURCES, key=lambda light: abs(LIGHT_SOURCES[light] - kelvin))
        tags.append((50721 + number, _SRATIONAL, 9, rationals(matrix.ravel()), True))
        tags.append((50778 + number, _SHORT, 1, nearest, True))
    return tags


def _level_tags() -> list[tuple[Any, ...]]:
    return [
        (50713, _SHORT, 2, (1, 1), True),
        (50714, _RATIONAL, 3, [0, 1] * 3, True),
        (50717, _LONG, 3, (65535,) * 3, True),
    ]
