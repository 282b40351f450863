"""BMP through Pillow, and rare ones through imagecodecs."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wamplex.core.intake.decoders.image_file import ImageFile, NotDecodableError, image_from_array
from wamplex.core.intake.decoders.libvips import read_density

_LARGEST_RARE = 100_000_000


def open_bmp(path: Path) -> ImageFile:
    """Read the header.

    Raises
    ------
    NotDecodableError : when it cannot be read
    """
    from PIL import Image

    Image.MAX_IMAGE_PIXELS = None  # sizes are bounded by who asks for the header
    try:
        with path.open("rb") as handle, Image.open(handle, formats=["BMP"]) as file:
            mode, (width, height), ppi = file.mode, file.size, file.info.get("dpi", (0,))[0]
    except Exception as error:
        return _rare(path, error)
    grey, alpha = mode in ("1", "L"), mode == "RGBA"
    target_mode = "L" if grey else "RGBA" if alpha else "RGB"
    return ImageFile(
        width=width,
        height=height,
        depth=8,
        colour="grey" if grey else "RGB",
        alpha=alpha,
        image=lambda: image_from_array(_pixels(path, target_mode)),
        density_ppi=read_density(float(ppi)),
    )


def _rare(path: Path, error: Exception) -> ImageFile:
    """Layouts that Pillow does not know; they are small, and decoded at once."""
    import imagecodecs

    data = path.read_bytes()
    width, height = (abs(int.from_bytes(data[at : at + 4], "little", signed=True)) for at in (18, 22))
    if width * height > _LARGEST_RARE:
        raise NotDecodableError(str(error)) from error
    try:
        pixels = np.asarray(imagecodecs.bmp_decode(data))
    except Exception:
        raise NotDecodableError(str(error)) from error
    pixels = pixels.reshape(*pixels.shape[:2], -1)
    return ImageFile(
        width=pixels.shape[1],
        height=pixels.shape[0],
        depth=8,
        colour="grey" if pixels.shape[2] <= 2 else "RGB",
        alpha=pixels.shape[2] in (2, 4),
        image=lambda: image_from_array(pixels),
    )


def _pixels(path: Path, mode: str) -> NDArray[Any]:
    from PIL import Image

    try:
        with path.open("rb") as handle, Image.open(handle, formats=["BMP"]) as file:
            return np.array(file.convert(mode))
    except Exception as error:
        raise NotDecodableError(str(error)) from error
