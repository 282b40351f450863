"""What a format or the disk cannot hold, said before any work is done."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

from wamplex.core.base.errors import NoRoomError, SizeError
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.file_formats import FILE_FORMATS
from wamplex.core.geometry.sheet import Sheet, file_pixels
from wamplex.core.geometry.size import LEAST_FACTOR, Size
from wamplex.core.geometry.size_text import byte_size_text

# Four bytes a pixel are held while a JPEG is compressed with its colour halved across.
_HALF_CHROMA_PX = 150_000_000
# Share of the uncompressed size that files of photographs take; common practice.
_SHARES = {
    ("tiff", "deflate"): 0.85,
    ("tiff", "none"): 1.0,
    ("tiff", "lzw"): 0.95,
    ("png", ""): 0.8,
    ("webp", ""): 0.7,
    ("dng", ""): 1.0,
    ("pdf", ""): 0.8,
}


def check_size(size: Size, delivery: Delivery, sheet: Sheet | None = None) -> None:
    """Refuse, in words, a size that the format cannot hold.

    Parameters
    ----------
    size : size of the result
    delivery : kind of file, folder and name
    sheet : sheet that the picture is printed on; None without one

    Raises
    ------
    SizeError : with the largest factor that fits
    """
    width, height = file_pixels(size, sheet)
    if delivery.format == "jpeg" and delivery.chroma == "422" and width * height > _HALF_CHROMA_PX:
        raise SizeError(
            f"JPEG with colour halved across is made of at most {_HALF_CHROMA_PX // 1_000_000} megapixels. "
            "Choose colour in full, or halved both ways."
        )
    info = FILE_FORMATS[delivery.format]
    limit = info.max_side_px
    longest = max(file_pixels(size, sheet))
    if limit is not None and longest > limit:
        fits = int(limit / max(size.source_width, size.source_height) * 100) / 100
        raise SizeError(
            f"{info.label} holds at most {limit:,} px a side, and this would be {longest:,} px. "
            f"Choose TIFF, or a factor up to {fits:g}."
        )


def uncompressed_bytes(size: Size, delivery: Delivery, channels: int, sheet: Sheet | None = None) -> int:
    """Size of the uncompressed pixels.

    Parameters
    ----------
    size : size of the result
    delivery : kind of file, folder and name
    channels : 1 for grey, 3 for colour, one more with alpha
    sheet : sheet that the picture is printed on; None without one

    Returns
    -------
    Bytes.
    """
    depth = FILE_FORMATS[delivery.format].depth(delivery.depth)
    width, height = file_pixels(size, sheet)
    return width * height * (3 if delivery.format == "dng" else channels) * depth // 8


def expected_bytes(size: Size, delivery: Delivery, channels: int, sheet: Sheet | None = None) -> int:
    """About how large the file will be.

    Parameters
    ----------
    size : size of the result
    delivery : kind of file, folder and name
    channels : 1 for grey, 3 for colour, one more with alpha
    sheet : sheet that the picture is printed on; None without one

    Returns
    -------
    Bytes; for compressed formats a guess from usual pictures.
    """
    raw = uncompressed_bytes(size, delivery, channels, sheet)
    if delivery.format == "jpeg":
        # From about 0.8 bits a pixel at quality 50 to 6 at 100; common practice.
        width, height = file_pixels(size, sheet)
        return int(width * height * (0.1 + 0.65 * (delivery.quality / 100) ** 6))
    fraction = _SHARES[delivery.format, delivery.compression if delivery.format == "tiff" else ""]
    return int(raw * fraction)


def free_bytes(folder: Path) -> int:
    """Free space on the disk of a folder; for a new folder, of its parent.

    Parameters
    ----------
    folder : existing or not

    Returns
    -------
    Bytes.
    """
    while not os.path.exists(folder) and folder != folder.parent:  # false also where a path is too long
        folder = folder.parent
    return shutil.disk_usage(folder).free


def check_disk(folder: Path, size: Size, delivery: Delivery, channels: int, sheet: Sheet | None = None) -> None:
    """Refuse when the disk has less room than the uncompressed file needs.

    Parameters
    ----------
    folder : where the file is written
    size : size of the result
    delivery : kind of file, folder and name
    channels : 1 for grey, 3 for colour, one more with alpha
    sheet : sheet that the picture is printed on; None without one

    Raises
    ------
    NoRoomError : with what is needed and what is free
    """
    needed = expected_bytes(size, delivery, channels, sheet)
    free = free_bytes(folder)
    if needed > free:
        fits = size.factor * (free / needed) ** 0.5
        smaller = f", or a factor up to {fits:.2g}" if fits >= LEAST_FACTOR else ""
        raise NoRoomError(
            f"The file needs about {byte_size_text(needed)}, but only {byte_size_text(free)} are free in "
            f"{folder}. Make room there, or choose another folder{smaller}."
        )
