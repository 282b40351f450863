"""JPEG XL: pixels through libjxl in their own depth, profile and EXIF from its container."""

from __future__ import annotations

import io
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

CONTAINER = b"\0\0\0\x0cJXL \r\n\x87\n"
_RATIOS = ((1, 1), (12, 10), (4, 3), (3, 2), (16, 9), (5, 4), (2, 1))
_SIZE_BITS = (9, 13, 18, 30)


def open_jpegxl(path: Path) -> ImageFile:
    """Read the header.

    Raises
    ------
    NotDecodableError : when it cannot be read
    """
    import pillow_jxl  # noqa: F401 - teaches Pillow the kind
    from PIL import Image

    data = path.read_bytes()
    width, height = read_jpegxl_size(data)
    if width * height > 2**31:
        return ImageFile(width, height, 8, "RGB", False, _never)  # too large: refused by who asked for the size
    try:
        with Image.open(io.BytesIO(data), formats=["JXL"]) as opened:
            mode, info, (width, height) = opened.mode, dict(opened.info), opened.size
    except Exception as error:
        raise NotDecodableError(str(error)) from error
    pixel_blocks = PixelBlocks(info.get("icc_profile"), info.get("exif"), _xmp(data))
    deep = _bits(data) > 8
    return ImageFile(
        width=width,
        height=height,
        depth=16 if deep else 8,
        colour="grey" if mode in ("L", "LA") else "RGB",
        alpha=mode in ("LA", "RGBA"),
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


def _bits(data: bytes) -> int:
    """Bits a sample (ImageMetadata, D.3): 8 where nothing is said."""
    bits = _Bits(_codestream(data)[2:])
    small = bits.take(1)
    for repeat in range(2):
        if repeat and bits.take(3):
            break
        bits.take(5) if small else bits.take(_SIZE_BITS[bits.take(2)])
    if bits.take(1):  # all_default
        return 8
    if bits.take(1):  # extra_fields: orientation, then sizes that are rarely there
        bits.take(3)
        if bits.take(1) or bits.take(1) or bits.take(1):
            return 16  # a preview or an animation: too rare to follow further
    if bits.take(1):  # floating point
        return 16
    return (8, 10, 12)[which] if (which := bits.take(2)) < 3 else bits.take(6) + 1


def _codestream(data: bytes) -> bytes:
    if data[:2] == b"\xff\n":
        return data[:64]
    for kind, content in iterate_boxes(data):
        if kind == b"jxlc":
            return content[:64]
        if kind == b"jxlp":
            return content[4:68]
    raise NotDecodableError("it has no codestream")


def _xmp(data: bytes) -> bytes | None:
    if data[:12] != CONTAINER:
        return None
    return next((content for kind, content in iterate_boxes(data) if kind == b"xml "), None)


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
