"""The formats that files are read in, each described once: names, suffixes, types and decoders come from here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from wamplex.core.base.errors import UnreadablePictureError
from wamplex.core.intake.decoders.avif import open_avif
from wamplex.core.intake.decoders.bmp import open_bmp
from wamplex.core.intake.decoders.exr import open_exr
from wamplex.core.intake.decoders.heic import open_heic
from wamplex.core.intake.decoders.image_file import ImageFile
from wamplex.core.intake.decoders.jpeg2000 import JPEG2000_STARTS, open_jpeg2000
from wamplex.core.intake.decoders.jpegxl import CONTAINER, open_jpegxl
from wamplex.core.intake.decoders.libvips import open_with_libvips
from wamplex.core.intake.decoders.netpbm import NETPBM_STARTS, open_netpbm
from wamplex.core.intake.decoders.raw import open_raw
from wamplex.core.intake.decoders.tiff import open_tiff
from wamplex.core.intake.raw_signature import RAW_TYPES, is_raw

RAW = "raw"


@dataclass(frozen=True)
class ReadableFormat:
    """A kind of picture file.

    Attributes
    ----------
    name : as users know it
    suffixes : of their names, which count only where a whole folder is taken in
    mime_types : of shared-mime-info, for the desktop
    signatures : first bytes of such files, any of them
    open : reads the header
    """

    name: str
    suffixes: tuple[str, ...]
    mime_types: tuple[str, ...]
    signatures: tuple[bytes, ...]
    open: Callable[[Path], ImageFile]


def _read_by_libvips(name: str, suffixes: tuple[str, ...], mime_type: str, *signatures: bytes) -> ReadableFormat:
    return ReadableFormat(name, suffixes, (mime_type,), signatures, partial(open_with_libvips, kind=name))


READABLE_FORMATS = (
    _read_by_libvips("JPEG", (".jpg", ".jpeg", ".jpe"), "image/jpeg", b"\xff\xd8\xff"),
    _read_by_libvips("PNG", (".png",), "image/png", b"\x89PNG\r\n\x1a\n"),
    ReadableFormat("TIFF", (".tif", ".tiff"), ("image/tiff",), (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"), open_tiff),
    _read_by_libvips("WebP", (".webp",), "image/webp"),
    ReadableFormat("AVIF", (".avif",), ("image/avif",), (), open_avif),
    ReadableFormat("HEIC", (".heic", ".heif", ".hif"), ("image/heif",), (), open_heic),
    ReadableFormat("JPEG XL", (".jxl",), ("image/jxl",), (b"\xff\n", CONTAINER), open_jpegxl),
    ReadableFormat(
        "JPEG 2000", (".jp2", ".j2k", ".j2c", ".jpf", ".jpx"), ("image/jp2",), JPEG2000_STARTS, open_jpeg2000
    ),
    _read_by_libvips("GIF", (".gif",), "image/gif", b"GIF87a", b"GIF89a"),
    ReadableFormat("BMP", (".bmp", ".dib"), ("image/bmp",), (b"BM",), open_bmp),
    ReadableFormat(
        "PNM", (".pbm", ".pgm", ".ppm", ".pnm", ".pam"), ("image/x-portable-anymap",), NETPBM_STARTS, open_netpbm
    ),
    ReadableFormat("OpenEXR", (".exr",), ("image/x-exr",), (b"v/1\x01",), open_exr),
    ReadableFormat(RAW, tuple(RAW_TYPES), tuple(filter(None, RAW_TYPES.values())), (), open_raw),
)
SUFFIXES = tuple(suffix for readable in READABLE_FORMATS for suffix in readable.suffixes)
MIME_TYPES = tuple(mime_type for readable in READABLE_FORMATS for mime_type in readable.mime_types)
FORMAT_NAMES = ", ".join("raw camera files" if one.name == RAW else one.name for one in READABLE_FORMATS)
FILE_DIALOG_PATTERNS = " ".join(f"*{suffix} *{suffix.upper()}" for suffix in SUFFIXES)
_AVIF = (b"avif", b"avis")
_HEIC = (b"heic", b"heix", b"heim", b"heis", b"hevc", b"hevx", b"mif1", b"msf1")


def recognise_format(path: Path) -> ReadableFormat:
    """Recognise the format of a file by its first bytes; its name does not count.

    Parameters
    ----------
    path : the file

    Returns
    -------
    The format.

    Raises
    ------
    UnreadablePictureError : when it is none of the kinds, or cannot be read
    """
    start = _start(path)
    if not start:
        raise UnreadablePictureError(f"{path.name} is empty: it holds 0 bytes.")
    name = _identify_brand(start)
    if name is None and is_raw(path):
        name = RAW
    for readable in READABLE_FORMATS:
        if readable.name == name or (name is None and start.startswith(readable.signatures)):
            return readable
    raise UnreadablePictureError(f"{path.name} is not a picture in a format that can be opened: {FORMAT_NAMES}.")


def _identify_brand(start: bytes) -> str | None:
    """Kinds that share a container with others: RIFF, and the ISO base media file."""
    if start[:4] == b"RIFF" and start[8:12] == b"WEBP":
        return "WebP"
    if start[4:8] != b"ftyp":
        return None
    size = min(int.from_bytes(start[:4], "big"), len(start))
    brands = [start[8:12], *(start[at : at + 4] for at in range(16, size - 3, 4))]
    if any(brand in _AVIF for brand in brands):
        return "AVIF"
    return "HEIC" if any(brand in _HEIC for brand in brands) else None


def _start(path: Path) -> bytes:
    try:
        if path.is_dir():
            raise UnreadablePictureError(f"{path.resolve().name} is a folder. Choose the pictures in it.")
        with path.open("rb") as file:
            return file.read(256)
    except OSError as error:
        reason = (error.strerror or "it cannot be read").lower()
        raise UnreadablePictureError(f"{path.name} cannot be opened: {reason}.") from error
