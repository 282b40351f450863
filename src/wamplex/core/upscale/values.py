"""What an upscaler is told beside the size, and what is done to its result."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

ValueName = Literal["noise", "blocks", "invention", "careful", "anchor_levels", "keep_source"]


class Values(BaseModel):
    """The adjustable values of a trial; each upscaler heeds the ones it lists.

    Attributes
    ----------
    noise : how much noise is removed, 0 to 100: twice its standard deviation in 8-bit levels
    blocks : how much compression is repaired, 0 to 100: 100 minus the JPEG quality it was saved with
    invention : how much plausible texture is added, 0 (none) to 100
    careful : average the results of all eight flips and quarter turns, which takes eight times as long
    anchor_levels : largest difference in 8-bit levels that shrinking the result may have from the source
        before it is corrected; None corrects nothing
    keep_source : share of the plainly interpolated source mixed back in, 0 to 100
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    noise: float = Field(default=0.0, ge=0, le=100)
    blocks: float = Field(default=0.0, ge=0, le=100)
    invention: float = Field(default=60.0, ge=0, le=100)
    careful: bool = False
    anchor_levels: float | None = Field(default=None, ge=0, le=64)
    keep_source: float = Field(default=0.0, ge=0, le=100)


COMMON_VALUES: tuple[ValueName, ...] = ("anchor_levels", "keep_source")
