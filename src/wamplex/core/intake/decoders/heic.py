"""HEIC, as telephones write it, through libheif."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from wamplex.core.intake.decoders.image_file import (
    ImageFile,
    NotDecodableError,
    PixelBlocks,
    full_range,
    image_from_array,
)


def open_heic(path: Path) -> ImageFile:
    """Read the header; the main picture counts, upright as the file asks for.

    Raises
    ------
    NotDecodableError : when libheif cannot read it
    """
    import pillow_heif

    try:
        file = pillow_heif.open_heif(str(path), convert_hdr_to_8bit=False)
        bits = int(file.info.get("bit_depth", 8))
    except Exception as error:
        raise NotDecodableError(str(error)) from error
    pixel_blocks = PixelBlocks(file.info.get("icc_profile"), file.info.get("exif"), file.info.get("xmp"))
    deep = ";16" in file.mode
    base = file.mode.split(";")[0]

    def image() -> object:
        try:
            pixels = np.asarray(file)
        except Exception as error:
            raise NotDecodableError(str(error)) from error
        # libheif's values of 10 or 12 bits come shifted up to 16.
        return image_from_array(full_range(pixels >> (16 - bits), bits) if deep else pixels, pixel_blocks)

    colours = "grey" if base in ("L", "LA") else "RGB"
    return ImageFile(
        width=file.size[0],
        height=file.size[1],
        depth=16 if deep else 8,
        colour=colours,  # type: ignore[arg-type]
        alpha=bool(file.has_alpha),
        image=image,
        profile=pixel_blocks.profile or None,
        notices=_notices(len(file)),
    )


def _notices(pictures: int) -> tuple[str, ...]:
    return (f"The file holds {pictures} pictures; the main one is used.",) if pictures > 1 else ()
