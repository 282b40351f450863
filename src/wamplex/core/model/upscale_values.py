"""What an upscaler is told beside the size, and what is done to its result."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from wamplex.core.base.frozen_model import FrozenModel
from wamplex.core.model.protected_places import ProtectedPlaces

ValueName = Literal[
    "sensor_noise",
    "noise",
    "blocks",
    "codec",
    "softness",
    "moved_px",
    "moved_deg",
    "invention",
    "spared",
    "careful",
    "anchor_levels",
    "keep_source",
]


class Values(FrozenModel):
    """The adjustable values of a trial; each upscaler heeds the ones it lists.

    Attributes
    ----------
    sensor_noise : how much of the noise that the sensor has is taken out while its mosaic is filled in: 0 to
        100 percent of its standard deviation
    noise : how much noise is removed, 0 to 100: twice its standard deviation in 8-bit levels
    blocks : how much compression is repaired, 0 to 100: 100 minus the JPEG quality it was saved with
    codec : what the compression is like: that of JPEG, or that of WebP and AVIF
    softness : how soft the source is, 0 to 100, where 50 stands for a Gaussian blur of 1 px; below 0
        how much it has been sharpened, down to -100, where -50 stands for an unsharp mask of 100 %
    moved_px, moved_deg : how far the camera moved, in source pixels, and along which direction, in degrees
        anticlockwise from the right
    invention : how much plausible texture is added, 0 (none) to 100
    spared : places that nothing is added to, such as faces
    careful : average the results of all eight flips and quarter turns, which takes eight times as long
    anchor_levels : largest difference in 8-bit levels that shrinking the result may have from the source
        before it is corrected; None corrects nothing
    keep_source : share of the plainly interpolated source mixed back in, 0 to 100
    """

    sensor_noise: float = Field(default=100.0, ge=0, le=100)
    noise: float = Field(default=0.0, ge=0, le=100)
    blocks: float = Field(default=0.0, ge=0, le=100)
    codec: Literal["jpeg", "webp"] = "jpeg"
    softness: float = Field(default=0.0, ge=-100, le=100)
    moved_px: float = Field(default=0.0, ge=0, le=20)
    moved_deg: float = Field(default=0.0, ge=0, lt=180)
    invention: float = Field(default=60.0, ge=0, le=100)
    spared: tuple[ProtectedPlaces, ...] = Field(default=(), max_length=64)
    careful: bool = False
    anchor_levels: float | None = Field(default=None, ge=0, le=64)
    keep_source: float = Field(default=0.0, ge=0, le=100)


COMMON_VALUES: tuple[ValueName, ...] = ("anchor_levels", "keep_source")
UNDONE_VALUES: tuple[ValueName, ...] = ("softness", "moved_px", "moved_deg")
