"""AVIF: pixels through libavif in their own depth, with what Pillow reads of the header."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wamplex.core.intake.decoders.boxes import find_boxes
from wamplex.core.intake.decoders.image_file import (
    ImageFile,
    NotDecodableError,
    PixelBlocks,
    full_range,
    image_from_array,
)
from wamplex.core.intake.decoders.orientation import read_exif_orientation

_PATH_TO_PROPERTIES = (b"meta", b"iprp", b"ipco")
_LARGEST_HEADER_BYTES = 4_000_000


def open_avif(path: Path) -> ImageFile:
    """Read the header; the first frame counts.

    Raises
    ------
    NotDecodableError : when it cannot be read
    """
    from PIL import Image

    Image.MAX_IMAGE_PIXELS = None  # sizes are bounded by who asks for the header
    try:
        with path.open("rb") as handle, Image.open(handle, formats=["AVIF"]) as file:
            mode, (width, height), info = file.mode, file.size, dict(file.info)
            frames = int(getattr(file, "n_frames", 1))
    except Exception as error:
        raise NotDecodableError(str(error)) from error
    with path.open("rb") as raw:
        bits, grey = _depth(raw.read(_LARGEST_HEADER_BYTES))
    # Pillow tells of the file's own turning and mirroring as if it were EXIF's.
    turn = read_exif_orientation(info.get("exif")) or 1
    pixel_blocks = PixelBlocks(info.get("icc_profile"), info.get("exif"), info.get("xmp"), None, turn)
    return ImageFile(
        width=height if turn >= 5 else width,
        height=width if turn >= 5 else height,
        depth=16 if bits > 8 else 8,
        colour="grey" if grey else "RGB",
        alpha=mode == "RGBA",
        image=lambda: image_from_array(_pixels(path, bits, grey=grey, alpha=mode == "RGBA"), pixel_blocks),
        profile=pixel_blocks.profile,
        notices=(f"The file holds {frames} pictures in turn; the first one is used.",) if frames > 1 else (),
    )


def _depth(data: bytes) -> tuple[int, bool]:
    """Bits a channel, and whether there is no colour, from the AV1 configuration (AV1-ISOBMFF, 2.3.3)."""
    for configuration in find_boxes(data, (*_PATH_TO_PROPERTIES, b"av1C")):
        if len(configuration) > 2:
            flags = configuration[2]
            return (12 if flags & 0x20 else 10) if flags & 0x40 else 8, bool(flags & 0x10)
    return 8, False


def _pixels(path: Path, bits: int, *, grey: bool, alpha: bool) -> NDArray[Any]:
    import imagecodecs

    try:
        pixels = np.asarray(imagecodecs.avif_decode(path.read_bytes(), index=0))
    except Exception as error:
        raise NotDecodableError(str(error)) from error
    if pixels.ndim == 4:
        pixels = pixels[0]
    if pixels.ndim == 2:
        pixels = pixels[..., None]
    if grey and pixels.shape[2] >= 3:
        pixels = pixels[..., [0, 3]] if alpha and pixels.shape[2] == 4 else pixels[..., :1]
    return full_range(np.ascontiguousarray(pixels), bits)
