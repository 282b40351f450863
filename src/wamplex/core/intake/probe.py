"""Looks at a file's header: what kind of picture it is and how large, without decoding it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from wamplex.core.base.errors import UnreadablePictureError
from wamplex.core.intake.decode_errors import DecodingErrors, explain_decode_error
from wamplex.core.intake.decoders.image_file import ImageFile
from wamplex.core.intake.formats import recognise_format
from wamplex.core.model.opened_source import OpenedSource, open_source
from wamplex.core.model.source import Source

# A decoded picture takes 12 to 16 bytes a pixel; this bounds it to about 8 GB.
LARGEST_SOURCE_MP = 500


@dataclass(frozen=True)
class Probe:
    """What a file's header says.

    Attributes
    ----------
    kind : "JPEG", "PNG", "TIFF", "HEIC" and so on
    width, height : pixels, upright
    depth : bits per channel once decoded, 8 or 16
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
        """Path of the file."""
        return self.source.path

    @property
    def file_bytes(self) -> int:
        """Size of the file."""
        return self.source.file_bytes


def probe(file: Path | OpenedSource) -> Probe:
    """Read the header of a picture file.

    Parameters
    ----------
    file : a path, or a source that was opened before

    Returns
    -------
    Dimensions in pixels, upright; nothing is decoded.

    Raises
    ------
    UnreadablePictureError : when it is no picture that can be taken in
    """
    return open_image_file(file)[0]


def open_image_file(file: Path | OpenedSource) -> tuple[Probe, ImageFile]:
    """Read the header of a picture file and open its pixels.

    Parameters
    ----------
    file : a path, or a source that was opened before

    Returns
    -------
    Header, and the file that decodes on demand.

    Raises
    ------
    UnreadablePictureError : when it is no picture that can be taken in
    """
    opened = open_source(file) if isinstance(file, Path) else file
    kind = recognise_format(opened)
    try:
        image_file = replace(kind.open(opened), opened=opened)
    except DecodingErrors as error:
        raise explain_decode_error(opened, kind.name, error) from error
    if image_file.width < 1 or image_file.height < 1:
        raise UnreadablePictureError(f"{opened.name} holds no pixels.")
    header = Probe(
        source=opened.source,
        kind=kind.name,
        width=image_file.width,
        height=image_file.height,
        depth=image_file.depth,
        colour=image_file.colour,
        alpha=image_file.alpha,
        density_ppi=image_file.density_ppi,
        profile=image_file.profile,
        pages=image_file.pages,
    )
    return header, image_file


def check_source_size(header: Probe) -> None:
    """Refuse a picture too large to be decoded; results may be larger, they are never held whole.

    Parameters
    ----------
    header : the picture's header

    Raises
    ------
    UnreadablePictureError : with the limit
    """
    if header.width * header.height > LARGEST_SOURCE_MP * 1e6:
        raise UnreadablePictureError(
            f"{header.path.name} says it is {header.width} × {header.height} px. Pictures up to "
            f"{LARGEST_SOURCE_MP} megapixels can be opened; make it smaller, or split it."
        )
