"""PBM, PGM, PPM and PAM."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wamplex.core.intake.decoders.image_file import ImageFile, NotDecodableError, image_from_array

NETPBM_STARTS = (b"P1", b"P2", b"P3", b"P4", b"P5", b"P6", b"P7")
_LARGEST_8_BIT = 255


def open_netpbm(path: Path) -> ImageFile:
    """Read the header; the first picture of several counts.

    Raises
    ------
    NotDecodableError : when it cannot be read
    """
    import netpbmfile

    try:
        with netpbmfile.NetpbmFile(str(path)) as file:
            width, height, channels, maximum = file.width, file.height, file.depth, file.maxval
            pictures = file.frames if file.frames and file.frames > 1 else 1
    except Exception as error:
        raise NotDecodableError(str(error)) from error
    if not 1 <= channels <= 4 or not 1 <= maximum <= 65535:
        raise NotDecodableError(f"it has {channels} channels of values up to {maximum}")
    return ImageFile(
        width=width,
        height=height,
        depth=16 if maximum > _LARGEST_8_BIT else 8,
        colour="grey" if channels <= 2 else "RGB",
        alpha=channels in (2, 4),
        image=lambda: image_from_array(_pixels(path, (height, width, channels), maximum)),
        notices=(f"The file holds {pictures} pictures; the first one is used.",) if pictures > 1 else (),
    )


def _pixels(path: Path, shape: tuple[int, int, int], maximum: int) -> NDArray[Any]:
    import netpbmfile

    try:
        with netpbmfile.NetpbmFile(str(path)) as file:
            pixels = np.asarray(file.asarray()).reshape(-1, *shape)[0]
            bitmap = file.magicnumber in ("P1", "P4")
    except Exception as error:
        raise NotDecodableError(str(error)) from error
    if bitmap:  # 1 is black (PBM)
        return np.where(pixels > 0, np.uint8(0), np.uint8(255))
    top = 255 if maximum <= _LARGEST_8_BIT else 65535
    stretched = np.rint(np.minimum(pixels, maximum).astype(np.float64) * top / maximum)
    return np.asarray(stretched, np.uint8 if top == _LARGEST_8_BIT else np.uint16)
