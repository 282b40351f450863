"""JPEG 2000 through OpenJPEG; its header and profile from its boxes (ISO/IEC 15444-1, annexes A and I)."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wamplex.core.intake.decoders.boxes import iterate_boxes
from wamplex.core.intake.decoders.image_file import (
    ImageFile,
    NotDecodableError,
    PixelBlocks,
    full_range,
    image_from_array,
)

JPEG2000_STARTS = (b"\0\0\0\x0cjP  \r\n\x87\n", b"\xff\x4f\xff\x51")
_START, _SIZ = b"\xff\x4f", 0xFF51
_ICC_METHODS = (2, 3)


def open_jpeg2000(path: Path) -> ImageFile:
    """Read the header.

    Raises
    ------
    NotDecodableError : when it cannot be read, or has another number of channels than a picture
    """
    data = path.read_bytes()
    header = dict(_header_boxes(data))
    width, height, depths = _size(_codestream(data))
    channels = _palette_channels(header) or len(depths)
    if not 1 <= channels <= 4 or len(set(depths)) != 1:
        raise NotDecodableError(f"it has {channels} channels of unlike kinds")
    bits = depths[0]
    pixel_blocks = PixelBlocks(_profile(header))
    return ImageFile(
        width=width,
        height=height,
        depth=16 if bits > 8 else 8,
        colour="grey" if channels <= 2 else "RGB",
        alpha=channels in (2, 4),
        image=lambda: image_from_array(_pixels(data, bits), pixel_blocks),
        profile=pixel_blocks.profile,
    )


def _header_boxes(data: bytes) -> Iterator[tuple[bytes, bytes]]:
    for kind, content in iterate_boxes(data) if data[4:8] == b"jP  " else ():
        if kind == b"jp2h":
            yield from reversed(list(iterate_boxes(content)))  # the first of a kind counts


def _codestream(data: bytes) -> bytes:
    if data[:2] == _START:
        return data
    codestream = next((content for kind, content in iterate_boxes(data) if kind == b"jp2c"), b"")
    if codestream[:2] != _START:
        raise NotDecodableError("it has no codestream")
    return codestream


def _size(stream: bytes) -> tuple[int, int, tuple[int, ...]]:
    """Width, height and the bits of each component from the SIZ marker (A.5.1)."""
    if int.from_bytes(stream[2:4], "big") != _SIZ or len(stream) < 42:
        raise NotDecodableError("it has no size")
    right, bottom, left, top = (int.from_bytes(stream[at : at + 4], "big") for at in (8, 12, 16, 20))
    count = int.from_bytes(stream[40:42], "big")
    if len(stream) < 42 + 3 * count or not 1 <= count <= 16:
        raise NotDecodableError("its size is cut off")
    return right - left, bottom - top, tuple((stream[42 + 3 * i] & 127) + 1 for i in range(count))


def _palette_channels(header: dict[bytes, bytes]) -> int:
    palette = header.get(b"pclr", b"")
    return palette[2] if len(palette) > 2 else 0


def _profile(header: dict[bytes, bytes]) -> bytes | None:
    colour = header.get(b"colr", b"")
    return colour[3:] if colour and colour[0] in _ICC_METHODS else None


def _pixels(data: bytes, bits: int) -> NDArray[Any]:
    import imagecodecs

    try:
        pixels = np.asarray(imagecodecs.jpeg2k_decode(data))
    except Exception as error:
        if "subsampling" in str(error):
            raise NotDecodableError("its colours are stored at fewer places than its brightness") from error
        raise NotDecodableError(str(error)) from error
    if pixels.dtype.kind == "i":  # signed samples lie around 0 (A.5.1)
        pixels = (pixels.astype(np.int64) + 2 ** (bits - 1)).astype(np.uint8 if bits <= 8 else np.uint16)
    return full_range(pixels, bits)
