"""The values of a trial: what its upscaler is asked to do, and what is done to the result."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from wamplex.core.base.frozen_model import FrozenModel
from wamplex.core.model.protected_places import ProtectedPlaces
from wamplex.core.model.value_table import VALUES, ValueName


def _number(name: ValueName) -> Any:
    info = VALUES[name]
    return Field(default=info.default, ge=info.minimum, le=info.maximum)


class Values(FrozenModel):
    """The adjustable values of a trial; each upscaler heeds the ones it lists.

    Attributes
    ----------
    sensor_noise : percentage of the sensor noise's standard deviation that is removed while the mosaic is filled
        in, 0 to 100
    noise : how much noise is removed, 0 to 100: twice its standard deviation in 8-bit levels
    compression : how many compression artifacts are removed, 0 to 100: 100 minus the JPEG quality of the file
    codec : what compressed the picture: JPEG, or WebP and AVIF
    blur : blur of the source, 0 to 100, where 50 is a Gaussian blur of 1 px; below 0 how much the source was
        sharpened, down to -100, where -50 is an unsharp mask of 100 %
    motion_blur_px, motion_blur_deg : how far the camera moved, in source pixels, and in which direction, in
        degrees counter-clockwise from the right
    texture_strength : how much plausible texture is added, 0 (none) to 100
    protected : places to which no texture is added, such as faces
    crispness : how much narrower the edges of the result are made, 0 to 100
    self_ensemble : average the results of all eight flips and quarter turns, which takes eight times as long
    back_projection_levels : largest difference in 8-bit levels between the shrunk result and the source before
        the result is corrected; None corrects nothing
    keep_source : percentage of the plainly interpolated source blended back in, 0 to 100
    """

    sensor_noise: float = _number("sensor_noise")
    noise: float = _number("noise")
    compression: float = _number("compression")
    codec: Literal["jpeg", "webp"] = "jpeg"
    blur: float = _number("blur")
    motion_blur_px: float = _number("motion_blur_px")
    motion_blur_deg: float = Field(default=0.0, ge=0, lt=180)
    texture_strength: float = _number("texture_strength")
    protected: tuple[ProtectedPlaces, ...] = Field(default=(), max_length=64)
    crispness: float = _number("crispness")
    self_ensemble: bool = False
    back_projection_levels: float | None = _number("back_projection_levels")
    keep_source: float = _number("keep_source")


COMMON_VALUES: tuple[ValueName, ...] = ("back_projection_levels", "keep_source")
UNDONE_VALUES: tuple[ValueName, ...] = ("blur", "motion_blur_px", "motion_blur_deg")
