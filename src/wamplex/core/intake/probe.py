"""Looks at a file's header: what kind of picture it is and how large, without decoding it."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pyvips

from wamplex.core.errors import UnreadablePictureError
from wamplex.core.intake.mosaic import is_raw
from wamplex.core.source import Source

# A decoded picture takes 12 to 16 bytes a pixel; this bounds it to about 8 GB.
LARGEST_SOURCE_MP = 500
_LOADERS = {"jpegload": "JPEG", "pngload": "PNG", "tiffload": "TIFF", "webpload": "WebP"}
_SIGNATURES = (
    (b"\xff\xd8\xff", "JPEG"),
    (b"\x89PNG\r\n\x1a\n", "PNG"),
    (b"II*\0", "TIFF"),
    (b"MM\0*", "TIFF"),
    (b"II+\0", "TIFF"),
    (b"MM\0+", "TIFF"),
)


@dataclass(frozen=True)
class Probe:
    """What a file's header says.

    Attributes
    ----------
    kind : "JPEG", "PNG", "TIFF" or "WebP"
    width, height : pixels, upright
    depth : bits per channel, 8 or 16
    colour : "grey", "RGB" or "CMYK"
    density_ppi : stated pixels per inch, None where the file states none
    """

    source: Source
    kind: str
    width: int
    height: int
    depth: int
    colour: str
    alpha: bool
    density_ppi: float | None
    profile: bytes | None
    pages: int

    @property
    def path(self) -> Path:
        """Where the file lies."""
        return self.source.path

    @property
    def file_bytes(self) -> int:
        """Size of the file."""
        return self.source.file_bytes


def probe(path: Path) -> Probe:
    """Read the header of a picture file.

    Returns
    -------
    Dimensions in pixels, upright; nothing is decoded.

    Raises
    ------
    UnreadablePictureError : when it is no picture that can be taken in
    """
    source = Source.of(path)
    kind = _kind_by_signature(path)
    image = open_lazily(path, kind)
    width, height = int(image.width), int(image.height)
    if _field(image, "orientation", 1) >= 5:
        width, height = height, width
    return Probe(
        source=source,
        kind=kind,
        width=width,
        height=height,
        depth=16 if image.format in ("ushort", "short") else 8,
        colour=_colour(image),
        alpha=bool(image.hasalpha()),
        density_ppi=stated_density(image),
        profile=bytes(image.get("icc-profile-data")) if image.get_typeof("icc-profile-data") else None,
        pages=int(_field(image, "n-pages", 1)),
    )


def check_source_size(found: Probe) -> None:
    """Refuse a picture too large to be decoded; results may be larger, they are never held whole.

    Raises
    ------
    UnreadablePictureError : with the limit
    """
    if found.width * found.height > LARGEST_SOURCE_MP * 1e6:
        raise UnreadablePictureError(
            f"{found.path.name} says it is {found.width} × {found.height} px. Pictures up to "
            f"{LARGEST_SOURCE_MP} megapixels can be opened; make a smaller one, or cut it into parts."
        )


def open_lazily(path: Path, kind: str) -> pyvips.Image:
    """The undecoded image; the file's contents decide how it is read, not its name."""
    try:
        # libvips reads options from brackets at the end of a name; an explicit loader does not.
        loader = next(name for name, words in _LOADERS.items() if words == kind)
        options: dict[str, Any] = {"access": "sequential", "fail_on": "warning"}
        return getattr(pyvips.Image, loader)(str(path), **options)
    except pyvips.Error as error:
        raise UnreadablePictureError(_reason(path, kind, error)) from error


def _kind_by_signature(path: Path) -> str:
    try:
        if path.is_dir():
            raise UnreadablePictureError(f"{path.name} is a folder. Choose the pictures in it.")
        with path.open("rb") as file:
            start = file.read(16)
    except OSError as error:
        reason = (error.strerror or "it cannot be read").lower()
        raise UnreadablePictureError(f"{path.name} cannot be opened: {reason}.") from error
    if not start:
        raise UnreadablePictureError(f"{path.name} is empty: it holds 0 bytes.")
    if start[:4] == b"RIFF" and start[8:12] == b"WEBP":
        return "WebP"
    if is_raw(path):
        raise UnreadablePictureError(
            f"{path.name} is a raw camera file, which cannot be read yet. Develop it to a 16-bit TIFF first."
        )
    for signature, kind in _SIGNATURES:
        if start.startswith(signature):
            return kind
    raise UnreadablePictureError(f"{path.name} is no JPEG, PNG, TIFF or WebP picture.")


def _reason(path: Path, kind: str, error: Exception) -> str:
    text = str(error).lower()
    words = ("eof", "end of", "truncated", "premature", "short", "not enough")
    if _ends_early(path, kind) or any(word in text for word in words):
        size = path.stat().st_size
        return f"{path.name} is damaged: the {kind} ends after {size:,} bytes, the rest is missing."
    return f"{path.name} is damaged: the {kind} cannot be decoded."


def _ends_early(path: Path, kind: str) -> bool:
    """Whether the mark that ends every file of this kind is missing."""
    size = path.stat().st_size
    with path.open("rb") as file:
        head = file.read(12)
        file.seek(max(0, size - 4096))
        tail = file.read()
    if kind == "JPEG":
        return b"\xff\xd9" not in tail
    if kind == "PNG":
        return b"IEND" not in tail
    return kind == "WebP" and size < int.from_bytes(head[4:8], "little") + 8


def damaged(path: Path, kind: str, error: Exception) -> UnreadablePictureError:
    """The error for a file whose header was readable but whose pixels are not."""
    return UnreadablePictureError(_reason(path, kind, error))


def _field(image: pyvips.Image, name: str, default: int) -> int:
    return int(image.get(name)) if image.get_typeof(name) else default


def _colour(image: pyvips.Image) -> str:
    if image.interpretation == "cmyk":
        return "CMYK"
    colours = image.bands - int(image.hasalpha())
    return "grey" if colours == 1 else "RGB"


def stated_density(image: pyvips.Image) -> float | None:
    """Pixels per inch of the file.

    libvips reports 1 pixel per mm or 72 ppi where nothing is stated, so a file that does state
    72 ppi, the placeholder of most software, counts as stating none.
    """
    per_mm = float(image.xres)
    density = per_mm * 25.4
    if per_mm <= 0 or abs(per_mm - 1.0) < 1e-6 or abs(density - 72.0) < 0.02:
        return None
    # Some writers count in whole pixels per metre or centimetre: 11811 per metre is 300 ppi.
    return float(round(density)) if abs(density - round(density)) < 0.02 else round(density, 2)
