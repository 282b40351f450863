"""A raw file as a picture: developed as decided, upright, in its working space."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from wamplex.core.base.progress import Progress
from wamplex.core.model.development import Development
from wamplex.core.model.picture import Metadata, Picture, Pixels
from wamplex.core.model.raw_file import RawFile
from wamplex.core.raw.camera_colours import working_profile
from wamplex.core.raw.developer import Developer
from wamplex.core.raw.exif_block import exif_block

_BAND_ROWS = 512


def read_developed_picture(raw: RawFile, development: Development, progress: Progress) -> Picture:
    """The picture of a raw file; its method is LibRaw's as it was read.

    Returns
    -------
    Pixels (H, W, 3) float32 in 0..1, upright, encoded for the working space, whose profile they have.

    Raises
    ------
    Cancelled : when ``progress`` is cancelled
    """
    return Picture(
        pixels=_upright(_pixels(raw, development, progress), raw.turns),
        depth=16,
        profile=working_profile(development.space),
        metadata=Metadata(exif=exif_block(raw.shot, raw.preview)),
        raw=raw,
        development=development,
    )


def develop_again(picture: Picture, raw: RawFile, development: Development, progress: Progress) -> Picture:
    """The same file developed otherwise; what belongs to the file stays."""
    developed = read_developed_picture(raw, development, progress)
    return replace(picture, pixels=developed.pixels, profile=developed.profile, raw=raw, development=development)


def _pixels(raw: RawFile, development: Development, progress: Progress) -> Pixels:
    developer = Developer.of(raw, development)
    out = np.empty(raw.developed.shape, np.float32)
    scale = np.float32(1 / raw.white)
    for top in range(0, len(out), _BAND_ROWS):
        progress.check()
        band = slice(top, top + _BAND_ROWS)
        out[band] = developer.developed(raw.developed[band].astype(np.float32) * scale)
    return out


def _upright(pixels: Pixels, turns: int) -> Pixels:
    return np.ascontiguousarray(np.rot90(pixels, -turns)) if turns else pixels
