"""JPEG, PNG, WebP, GIF and ordinary TIFF: libvips reads them itself."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pyvips

from wamplex.core.intake.decoders.image_file import Colour, ImageFile
from wamplex.core.intake.decoders.orientation import (
    read_exif_orientation,
    read_png_exif,
    read_xmp_orientation,
)

# libvips remembers the last hundred operations by the names of files, which here are numbers of descriptors, and
# keeps their pictures in memory.
pyvips.cache_set_max(0)

_LOADERS = {
    "JPEG": "jpegload",
    "PNG": "pngload",
    "TIFF": "tiffload",
    "WebP": "webpload",
    "GIF": "gifload",
}


def open_with_libvips(path: Path, kind: str) -> ImageFile:
    """Read the header.

    Raises
    ------
    pyvips.Error : when libvips cannot
    """
    image = _header(path, kind)
    width, height = int(image.width), int(image.height)
    if read_orientation(image) >= 5:
        width, height = height, width
    frames = int(_field(image, "n-pages", 1))
    notices = (
        (f"The GIF has {frames} pictures in turn; the first one is used.",) if kind == "GIF" and frames > 1 else ()
    )
    return ImageFile(
        width=width,
        height=height,
        depth=16 if image.format in ("ushort", "short") else 8,
        colour=_colour(image),
        alpha=bool(image.hasalpha()),
        image=lambda: open_lazily(path, kind),
        density_ppi=read_stated_density(image),
        profile=bytes(image.get("icc-profile-data")) if image.get_typeof("icc-profile-data") else None,
        pages=1 if kind == "GIF" else frames,
        notices=notices,
        shrinks=True,
    )


def _header(path: Path, kind: str) -> pyvips.Image:
    try:
        return open_lazily(path, kind)
    except pyvips.Error:
        if kind != "GIF":
            raise
        return open_lazily(path, kind, "error")


def open_lazily(path: Path, kind: str, fail_on: str = "warning") -> pyvips.Image:
    """The undecoded image; the file's contents decide how it is read, not its name."""
    # libvips reads options from brackets at the end of a name; an explicit loader does not.
    options: dict[str, Any] = {"access": "sequential", "fail_on": fail_on}
    image = getattr(pyvips.Image, _LOADERS[kind])(str(path), **options)
    turned = _stated_orientation(image, path, kind)
    if turned != int(_field(image, "orientation", 1)):
        image = image.copy()
        image.set_type(pyvips.GValue.gint_type, "orientation", turned)
    return image


def read_orientation(image: pyvips.Image) -> int:
    """The EXIF orientation that an image still has to be turned by, 1 to 8."""
    return int(_field(image, "orientation", 1))


def _stated_orientation(image: pyvips.Image, path: Path, kind: str) -> int:
    """EXIF orientation from libvips, else from the end of the file or from XMP."""
    if image.get_typeof("orientation"):
        return read_orientation(image)
    exif = read_png_exif(path) if kind == "PNG" else None
    xmp = bytes(image.get("xmp-data")) if image.get_typeof("xmp-data") else None
    return read_exif_orientation(exif) or read_xmp_orientation(xmp) or 1


def _field(image: pyvips.Image, name: str, default: int) -> int:
    return int(image.get(name)) if image.get_typeof(name) else default


def _colour(image: pyvips.Image) -> Colour:
    if image.interpretation == "cmyk":
        return "CMYK"
    return "grey" if image.bands - int(image.hasalpha()) == 1 else "RGB"


def read_stated_density(image: pyvips.Image) -> float | None:
    """Pixels per inch of the file.

    libvips reports 1 pixel per mm or 72 ppi where nothing is stated, so a file that does state
    72 ppi, the placeholder of most software, counts as stating none.
    """
    return read_density(float(image.xres) * 25.4)


def read_density(ppi: float) -> float | None:
    """A stated number of pixels per inch, None for those that stand for "none stated"."""
    if ppi <= 0 or abs(ppi - 25.4) < 1e-4 or abs(ppi - 72.0) < 0.02:
        return None
    # Some writers count in whole pixels per metre or centimetre: 11811 per metre is 300 ppi.
    return float(round(ppi)) if abs(ppi - round(ppi)) < 0.02 else round(ppi, 2)
