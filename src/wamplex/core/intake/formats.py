"""Which kind of picture a file is, by its first bytes, and how that kind is opened."""

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
from wamplex.core.intake.decoders.jpeg2000 import SIGNATURES as JPEG_2000
from wamplex.core.intake.decoders.jpeg2000 import open_jpeg2000
from wamplex.core.intake.decoders.jpegxl import CONTAINER, open_jpegxl
from wamplex.core.intake.decoders.libvips import open_with_libvips
from wamplex.core.intake.decoders.netpbm import SIGNATURES as NETPBM
from wamplex.core.intake.decoders.netpbm import open_netpbm
from wamplex.core.intake.decoders.raw import open_raw
from wamplex.core.intake.decoders.tiff import open_tiff
from wamplex.core.intake.raw_signature import RAW_SUFFIXES, is_raw

RAW = "raw"


@dataclass(frozen=True)
class FileFormat:
    """A kind of picture file.

    Attributes
    ----------
    name : as users know it
    suffixes : of their names, which count only where a whole folder is taken in
    starts : first bytes of such files, any of them
    open : reads the header
    """

    name: str
    suffixes: tuple[str, ...]
    starts: tuple[bytes, ...]
    open: Callable[[Path], ImageFile]


def _by_libvips(name: str, suffixes: tuple[str, ...], *starts: bytes) -> FileFormat:
    return FileFormat(name, suffixes, starts, partial(open_with_libvips, kind=name))


KINDS = (
    _by_libvips("JPEG", (".jpg", ".jpeg", ".jpe"), b"\xff\xd8\xff"),
    _by_libvips("PNG", (".png",), b"\x89PNG\r\n\x1a\n"),
    FileFormat("TIFF", (".tif", ".tiff"), (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"), open_tiff),
    _by_libvips("WebP", (".webp",)),
    FileFormat("AVIF", (".avif",), (), open_avif),
    FileFormat("HEIC", (".heic", ".heif", ".hif"), (), open_heic),
    FileFormat("JPEG XL", (".jxl",), (b"\xff\n", CONTAINER), open_jpegxl),
    FileFormat("JPEG 2000", (".jp2", ".j2k", ".j2c", ".jpf", ".jpx"), JPEG_2000, open_jpeg2000),
    _by_libvips("GIF", (".gif",), b"GIF87a", b"GIF89a"),
    FileFormat("BMP", (".bmp", ".dib"), (b"BM",), open_bmp),
    FileFormat("PNM", (".pbm", ".pgm", ".ppm", ".pnm", ".pam"), NETPBM, open_netpbm),
    FileFormat("OpenEXR", (".exr",), (b"v/1\x01",), open_exr),
    FileFormat(RAW, RAW_SUFFIXES, (), open_raw),
)
SUFFIXES = tuple(suffix for kind in KINDS for suffix in kind.suffixes)
NAMES = "JPEG, PNG, TIFF, WebP, AVIF, HEIC, JPEG XL, JPEG 2000, GIF, BMP, PNM, OpenEXR, raw camera files"
_AVIF = (b"avif", b"avis")
_HEIC = (b"heic", b"heix", b"heim", b"heis", b"hevc", b"hevx", b"mif1", b"msf1")


def recognise_format(path: Path) -> FileFormat:
    """Recognise a file by its contents; its name does not count.

    Raises
    ------
    UnreadablePictureError : when it is none of the kinds, or cannot be read
    """
    start = _start(path)
    if not start:
        raise UnreadablePictureError(f"{path.name} is empty: it holds 0 bytes.")
    name = _by_brand(start)
    if name is None and is_raw(path):
        name = RAW
    for kind in KINDS:
        if kind.name == name or (name is None and start.startswith(kind.starts)):
            return kind
    raise UnreadablePictureError(f"{path.name} is no picture of a kind that can be opened: {NAMES}.")


def _by_brand(start: bytes) -> str | None:
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
