"""Raw camera files: a header, the small picture that came with them, and the mosaic."""

from __future__ import annotations

from functools import partial

import numpy as np
import pyvips

from wamplex.core.base.errors import UnreadablePictureError
from wamplex.core.intake.decoders.image_file import ImageFile, image_from_array
from wamplex.core.model.opened_source import OpenedSource
from wamplex.core.raw.libraw import TURNS, embedded_preview, read_half_size, read_raw, unreadable_raw_error

_NO_MOSAIC = "The sensor has no Bayer filter, or the file has no mosaic. LibRaw developed it; Tessera cannot be used."
_LEAST_PREVIEW_PX = 300


def open_raw(opened: OpenedSource) -> ImageFile:
    """Read the header.

    Raises
    ------
    UnreadablePictureError : when LibRaw cannot read it, with what it says
    """
    import rawpy

    raw = rawpy.RawPy()
    try:
        raw.open_file(str(opened.path))
        sizes = raw.sizes
        pattern = raw.raw_pattern
    except rawpy.LibRawError as error:
        raise UnreadablePictureError(unreadable_raw_error(opened.name, error)) from error
    finally:
        raw.close()
    turns = TURNS.get(sizes.flip, 0)
    width, height = (sizes.height, sizes.width) if turns % 2 else (sizes.width, sizes.height)
    bayer = pattern is not None and pattern.shape == (2, 2)
    return ImageFile(
        width=width,
        height=height,
        depth=16,
        colour="RGB",
        alpha=False,
        image=partial(_small, opened, turns),
        notices=() if bayer else (_NO_MOSAIC,),
        raw=partial(read_raw, opened.path, name=opened.name),
    )


def _small(opened: OpenedSource, turns: int) -> pyvips.Image:
    """The preview the camera made, else a development at half the size; upright."""
    preview = embedded_preview(opened.path)
    if preview is not None:
        image = pyvips.Image.new_from_buffer(preview, "")
        if max(image.width, image.height) >= _LEAST_PREVIEW_PX:
            orientation = image.get("orientation") if image.get_typeof("orientation") else 1
            if orientation == 1 and turns:
                image = image.copy_memory().rot(("d0", "d90", "d180", "d270")[turns])
            return image
    return image_from_array(np.rot90(read_half_size(opened.path, opened.name), -turns))
