"""JPEG XL: pixels through libjxl in their own depth, profile and EXIF from its container."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wamplex.core.intake.decoders.boxes import iterate_boxes
from wamplex.core.intake.decoders.image_file import (
    ImageFile,
    NotDecodableError,
    PixelBlocks,
    image_from_array,
)
from wamplex.core.intake.decoders.libjxl import read_jxl_header

CONTAINER = b"\0\0\0\x0cJXL \r\n\x87\n"
_RATIOS = ((1, 1), (12, 10), (4, 3), (3, 2), (16, 9), (5, 4), (2, 1))
_SIZE_BITS = (9, 13, 18, 30)
_MOST_METADATA_BYTES = 4_000_000


def open_jpegxl(path: Path) -> ImageFile:
    """Read the header.

    Raises
    ------
    NotDecodableError : when it cannot be read
    """
    data = path.read_bytes()
    width, height = read_jpegxl_size(data)
    if width * height > 2**31:
        return ImageFile(width, height, 8, "RGB", False, _never)  # too large: refused by who asked for the size
    try:
        header = read_jxl_header(data)
    except (ValueError, OSError) as error:
        raise NotDecodableError(str(error)) from error
    pixel_blocks = PixelBlocks(header.profile, _exif(data), _box(data, b"xml "))
    return ImageFile(
        width=header.width,
        height=header.height,
        depth=16 if header.bits > 8 else 8,
        colour="grey" if header.grey else "RGB",
        alpha=header.alpha,
        image=lambda: image_from_array(_pixels(data), pixel_blocks),
        profile=pixel_blocks.profile,
    )


def _never() -> Any:
    raise NotDecodableError("it is too large")


def _pixels(data: bytes) -> NDArray[Any]:
    import imagecodecs

    try:
        pixels = imagecodecs.jpegxl_decode(data)
    except Exception as error:
        raise NotDecodableError(str(error)) from error
    if pixels.ndim == 4 or (pixels.ndim == 3 and pixels.shape[2] > 4):
        pixels = pixels[0]  # the first picture of several
    if pixels.dtype.kind == "f":
        return np.asarray(np.rint(np.clip(np.nan_to_num(pixels), 0, 1) * 65535), np.uint16)
    return np.asarray(pixels)


def read_jpegxl_size(data: bytes) -> tuple[int, int]:
    """Width and height from the codestream's SizeHeader (ISO/IEC 18181-1, D.2), as stored.

    Raises
    ------
    NotDecodableError : when there is none
    """
    bits = _Bits(_codestream(data)[2:])
    small = bits.take(1)

    def side() -> int:
        return (bits.take(5) + 1) * 8 if small else bits.take(_SIZE_BITS[bits.take(2)]) + 1

    height = side()
    ratio = bits.take(3)
    if ratio == 0:
        return side(), height
    across, down = _RATIOS[ratio - 1]
    return height * across // down, height


def _codestream(data: bytes) -> bytes:
    if data[:2] == b"\xff\n":
        return data[:64]
    for kind, content in iterate_boxes(data):
        if kind == b"jxlc":
            return content[:64]
        if kind == b"jxlp":
            return content[4:68]
    raise NotDecodableError("it has no codestream")


def _exif(data: bytes) -> bytes | None:
    """The Exif box (ISO/IEC 18181-2, 9.5): an offset of four bytes, then a TIFF header."""
    content = _box(data, b"Exif")
    if content is None or len(content) < 8:
        return None
    return b"Exif\0\0" + content[4 + int.from_bytes(content[:4], "big") :]


def _box(data: bytes, kind: bytes) -> bytes | None:
    """Contents of the first box of a kind, unpacked where they are packed (``brob``, 9.8)."""
    import imagecodecs

    if data[:12] != CONTAINER:
        return None
    for name, content in iterate_boxes(data):
        if name == kind:
            return content
        if name == b"brob" and content[:4] == kind:
            try:
                return bytes(imagecodecs.brotli_decode(content[4:], out=_MOST_METADATA_BYTES))
            except Exception:  # whatever a damaged box raises; the pixels count
                return None
    return None


class _Bits:
    """Bits from the least significant of each byte on."""

    def __init__(self, data: bytes) -> None:
        self._value, self._left = int.from_bytes(data, "little"), 8 * len(data)

    def take(self, count: int) -> int:
        if count > self._left:
            raise NotDecodableError("it ends in its header")
        value = self._value & ((1 << count) - 1)
        self._value >>= count
        self._left -= count
        return value
