"""How a raw file is developed: the decisions, each with what it stands for."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from wamplex.core.base.frozen_model import FrozenModel

Method = Literal["ahd", "aahd", "dcb", "dht", "ppg", "vng", "linear", "tessera"]
Highlights = Literal["clip", "blend", "rebuild"]
Curve = Literal["straight", "shoulder"]
WorkingSpace = Literal["bt2020", "romm", "srgb"]

METHOD_WORDS: dict[Method, str] = {
    "ahd": "AHD",
    "aahd": "AAHD",
    "dcb": "DCB",
    "dht": "DHT",
    "ppg": "PPG",
    "vng": "VNG",
    "linear": "Bilinear",
    "tessera": "Tessera",
}
HIGHLIGHT_WORDS: dict[Highlights, str] = {
    "clip": "Clip",
    "blend": "Blend",
    "rebuild": "Rebuild",
}
CURVE_WORDS: dict[Curve, str] = {"straight": "Linear", "shoulder": "Soft shoulder"}
SPACE_WORDS: dict[WorkingSpace, str] = {"bt2020": "BT.2020", "romm": "ROMM RGB", "srgb": "sRGB"}


class Light(FrozenModel):
    """The colour of the light, by temperature and tint.

    Attributes
    ----------
    kelvin : correlated colour temperature
    tint : distance from the locus in thousandths of CIE 1960 uv, greenish above 0
    """

    kelvin: float = Field(ge=1700, le=25000)
    tint: float = Field(default=0.0, ge=-50, le=50)


class Development(FrozenModel):
    """All that is decided about developing; the least that a print needs.

    Attributes
    ----------
    method : how the mosaic is made a picture where the upscaler wants one
    neutral : gains of red and blue that make a picked place grey; None for the balance as shot
    light : the light, in place of both
    exposure_ev : brighter by so many stops
    highlights : what becomes of lights that are cut off in a channel
    curve : tones near white: straight up to it, or with a shoulder
    space : primaries of the result
    linear : go no further than to the camera's own colours, nothing of them cut off: for files that are to be
        developed elsewhere
    """

    method: Method = "ahd"
    neutral: tuple[float, float] | None = None
    light: Light | None = None
    exposure_ev: float = Field(default=0.0, ge=-4, le=6)
    highlights: Highlights = "clip"
    curve: Curve = "straight"
    space: WorkingSpace = "bt2020"
    linear: bool = False
