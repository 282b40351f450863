"""Which way up a picture is, where the description lies in a place that libvips does not look at."""

from __future__ import annotations

import re
import zlib
from pathlib import Path

_PNG = b"\x89PNG\r\n\x1a\n"
_TAG, _SHORT = 0x0112, 3
# tiff:Orientation (XMP part 2, 3.1) as an attribute or an element.
_XMP = re.compile(rb"tiff:Orientation(?:\s*=\s*[\"']|\s*>\s*)([1-8])\b")
_LONGEST_BLOCK = 10_000_000


def read_exif_orientation(exif: bytes | None) -> int | None:
    """The tag in a block of EXIF, with or without ``Exif\\0\\0`` in front; None where there is none."""
    if not exif:
        return None
    tiff = exif[6:] if exif.startswith(b"Exif\0\0") else exif
    order = {b"II*\0": "little", b"MM\0*": "big"}.get(tiff[:4])
    if order is None:
        return None

    def number(at: int, size: int) -> int:
        return int.from_bytes(tiff[at : at + size], order)  # type: ignore[arg-type]

    first = number(4, 4)
    for index in range(number(first, 2)):
        at = first + 2 + 12 * index
        if at + 12 > len(tiff):
            return None
        if number(at, 2) == _TAG and number(at + 2, 2) == _SHORT:
            value = number(at + 8, 2)
            return value if 1 <= value <= 8 else None
    return None


def read_xmp_orientation(xmp: bytes | None) -> int | None:
    """``tiff:Orientation`` of a block of XMP, None where there is none."""
    match = _XMP.search(xmp or b"")
    return int(match[1]) if match else None


def read_png_exif(path: Path) -> bytes | None:
    """EXIF of a PNG: in its own chunk, which may come after the pixels, or as hexadecimal text."""
    with path.open("rb") as file:
        if file.read(8) != _PNG:
            return None
        while len(head := file.read(8)) == 8:
            size, kind = int.from_bytes(head[:4], "big"), head[4:]
            if kind not in (b"eXIf", b"zTXt", b"tEXt") or size > _LONGEST_BLOCK:
                file.seek(size + 4, 1)
                continue
            block = file.read(size)
            file.seek(4, 1)
            if kind == b"eXIf":
                return block
            if (exif := _raw_profile(kind, block)) is not None:
                return exif
    return None


def _raw_profile(kind: bytes, block: bytes) -> bytes | None:
    """EXIF in a text named "Raw profile type exif" or "APP1": name, length, then hexadecimal digits."""
    name, _, text = block.partition(b"\0")
    if name.lower() not in (b"raw profile type exif", b"raw profile type app1"):
        return None
    try:
        if kind == b"zTXt":
            text = zlib.decompressobj().decompress(text[1:], _LONGEST_BLOCK)
        lines = text.strip().split(b"\n", 2)
        return bytes.fromhex(lines[2].decode("ascii"))
    except (zlib.error, ValueError, IndexError):
        return None
