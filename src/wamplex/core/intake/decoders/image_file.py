"""What every decoder gives: a header that has been read, and pixels that can be."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
import pyvips
from numpy.typing import NDArray

from wamplex.core.model.opened_source import OpenedSource
from wamplex.core.model.raw_file import RawFile

Colour = Literal["grey", "RGB", "CMYK"]


@dataclass(frozen=True)
class ImageFile:
    """A picture file whose header has been read.

    Attributes
    ----------
    width, height : pixels, upright
    depth : bits per channel once decoded, 8 or 16
    colour : what the file holds
    alpha : whether it has transparency
    density_ppi : stated pixels per inch, None where the file states none
    profile : ICC profile, None where there is none
    pages : pages or frames
    notices : sentences for the user about how the file was understood
    image : decodes: 1 to 4 bands plus transparency, uchar or ushort, not upright yet; with the fields
        ``icc-profile-data``, ``exif-data``, ``xmp-data``, ``iptc-data``, ``orientation`` where there are any
    raw : of a raw file, reads the mosaic; its ``image`` is but a preview
    shrinks : whether libvips can make it small while it reads, from the path alone
    opened : the source that everything above reads from; it stays open as long as this value
    """

    width: int
    height: int
    depth: int
    colour: Colour
    alpha: bool
    image: Callable[[], pyvips.Image]
    density_ppi: float | None = None
    profile: bytes | None = None
    pages: int = 1
    notices: tuple[str, ...] = ()
    raw: Callable[[], RawFile] | None = None
    shrinks: bool = False
    opened: OpenedSource | None = None


@dataclass(frozen=True)
class PixelBlocks:
    """What travels along with pixels that libvips did not read itself."""

    profile: bytes | None = None
    exif: bytes | None = None
    xmp: bytes | None = None
    iptc: bytes | None = None
    orientation: int = 1
    fields: dict[str, Any] = field(default_factory=dict)


class NotDecodableError(Exception):
    """The file is of a kind that cannot be decoded, for the reason given; it need not be damaged."""


def image_from_array(
    pixels: NDArray[Any], metadata_blocks: PixelBlocks | None = None, *, cmyk: bool = False
) -> pyvips.Image:
    """An image for libvips from (H, W) or (H, W, C), uint8 or uint16, with what travels along."""
    if pixels.ndim == 2:
        pixels = pixels[..., None]
    wide = pixels.dtype == np.uint16
    if cmyk:
        means = "cmyk"
    elif pixels.shape[2] <= 2:
        means = "grey16" if wide else "b-w"
    else:
        means = "rgb16" if wide else "srgb"
    pixels = np.ascontiguousarray(pixels)
    height, width, bands = pixels.shape
    image = pyvips.Image.new_from_memory(pixels.data, width, height, bands, "ushort" if wide else "uchar")
    image = image.copy(interpretation=means)
    pixel_blocks = metadata_blocks or PixelBlocks()
    named = (
        ("icc-profile", pixel_blocks.profile),
        ("exif", pixel_blocks.exif),
        ("xmp", pixel_blocks.xmp),
        ("iptc", pixel_blocks.iptc),
    )
    for name, block in named:
        if block:
            image.set_type(pyvips.GValue.blob_type, f"{name}-data", block)
    # libvips takes it from the EXIF, which decoders that turn the picture themselves leave as it was.
    if image.get_typeof("orientation") or pixel_blocks.orientation != 1:
        image.set_type(pyvips.GValue.gint_type, "orientation", pixel_blocks.orientation)
    return image


def full_range(pixels: NDArray[Any], bits: int) -> NDArray[Any]:
    """Unsigned values of so many bits as uint8 (up to 8 bits) or uint16, stretched to its whole range."""
    if bits in (8, 16):
        return pixels
    maximum = 255 if bits < 8 else 65535
    stretched = np.rint(pixels.astype(np.float64) * (maximum / (2**bits - 1)))
    return np.asarray(stretched, np.uint8 if bits < 8 else np.uint16)
