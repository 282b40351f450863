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
from wamplex.core.model.opened_source import OpenedSource

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
    open : reads the header of an opened source
    """

    name: str
    suffixes: tuple[str, ...]
    mime_types: tuple[str, ...]
    signatures: tuple[bytes, ...]
    open: Callable[[OpenedSource], ImageFile]


def _by_path(
    name: str,
    suffixes: tuple[str, ...],
    mime_type: str,
    open_path: Callable[[Path], ImageFile],
    signatures: tuple[bytes, ...] = (),
) -> ReadableFormat:
    """A format whose decoder takes the path of the copy."""
    return ReadableFormat(name, suffixes, (mime_type,), signatures, lambda opened: open_path(opened.path))


def _by_libvips(kind: str) -> Callable[[Path], ImageFile]:
    return partial(open_with_libvips, kind=kind)


_JPEG_2000_SUFFIXES = (".jp2", ".j2k", ".j2c", ".jpf", ".jpx")
_PNM_SUFFIXES = (".pbm", ".pgm", ".ppm", ".pnm", ".pam")
TIFF_STARTS = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")  # TIFF 6.0, and BigTIFF

READABLE_FORMATS = (
    _by_path("JPEG", (".jpg", ".jpeg", ".jpe"), "image/jpeg", _by_libvips("JPEG"), (b"\xff\xd8\xff",)),
    _by_path("PNG", (".png",), "image/png", _by_libvips("PNG"), (b"\x89PNG\r\n\x1a\n",)),
    _by_path("TIFF", (".tif", ".tiff"), "image/tiff", open_tiff, TIFF_STARTS),
    _by_path("WebP", (".webp",), "image/webp", _by_libvips("WebP")),
    _by_path("AVIF", (".avif",), "image/avif", open_avif),
    _by_path("HEIC", (".heic", ".heif", ".hif"), "image/heif", open_heic),
    _by_path("JPEG XL", (".jxl",), "image/jxl", open_jpegxl, (b"\xff\n", CONTAINER)),
    _by_path("JPEG 2000", _JPEG_2000_SUFFIXES, "image/jp2", open_jpeg2000, JPEG2000_STARTS),
    _by_path("GIF", (".gif",), "image/gif", _by_libvips("GIF"), (b"GIF87a", b"GIF89a")),
    _by_path("BMP", (".bmp", ".dib"), "image/bmp", open_bmp, (b"BM",)),
    _by_path("PNM", _PNM_SUFFIXES, "image/x-portable-anymap", open_netpbm, NETPBM_STARTS),
    _by_path("OpenEXR", (".exr",), "image/x-exr", open_exr, (b"v/1\x01",)),
    ReadableFormat(RAW, tuple(RAW_TYPES), tuple(filter(None, RAW_TYPES.values())), (), open_raw),
)
SUFFIXES = tuple(suffix for readable in READABLE_FORMATS for suffix in readable.suffixes)
MIME_TYPES = tuple(mime_type for readable in READABLE_FORMATS for mime_type in readable.mime_types)
FORMAT_NAMES = ", ".join("raw camera files" if one.name == RAW else one.name for one in READABLE_FORMATS)
FILE_DIALOG_PATTERNS = " ".join(f"*{suffix} *{suffix.upper()}" for suffix in SUFFIXES)
_SIGNATURE_BYTES = 256
_AVIF = (b"avif", b"avis")
_HEIC = (b"heic", b"heix", b"heim", b"heis", b"hevc", b"hevx", b"mif1", b"msf1")


def recognise_format(opened: OpenedSource) -> ReadableFormat:
    """Recognise the format of a file by its first bytes; its name does not count.

    Parameters
    ----------
    opened : the file

    Returns
    -------
    The format.

    Raises
    ------
    UnreadablePictureError : when it is none of the kinds, or cannot be read
    """
    start = opened.read(_SIGNATURE_BYTES)
    if not start:
        raise UnreadablePictureError(f"{opened.name} is empty: it holds 0 bytes.")
    name = _identify_brand(start)
    if name is None and is_raw(opened.path):
        name = RAW
    for readable in READABLE_FORMATS:
        if readable.name == name or (name is None and start.startswith(readable.signatures)):
            return readable
    raise UnreadablePictureError(f"{opened.name} is not a picture in a format that can be opened: {FORMAT_NAMES}.")


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
