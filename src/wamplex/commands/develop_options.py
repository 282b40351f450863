"""Parses the options for developing raw files."""

from __future__ import annotations

import re
from dataclasses import dataclass

from pydantic import ValidationError

from wamplex.core.base.errors import RecipeError
from wamplex.core.base.frozen_model import describe_validation_error
from wamplex.core.model.development import Development, Light
from wamplex.core.model.picture import Picture
from wamplex.core.raw.neutral_point import balance_from_neutral

_OPTIONS = {
    "method": "--demosaic",
    "exposure_ev": "--exposure",
    "highlights": "--highlights",
    "curve": "--tones",
    "space": "--space",
}


@dataclass(frozen=True)
class DevelopmentRequest:
    """How raw files are to be developed.

    Attributes
    ----------
    development : the same for all
    neutral : column and row of a place that is to be grey, in pixels of the upright picture
    """

    development: Development
    neutral: tuple[int, int] | None = None

    def of(self, picture: Picture) -> Development | None:
        """Development of a picture; None for other files than raw, or without a request.

        Raises
        ------
        RecipeError : when the place that is to be grey lies outside, is too dark, or is cut off
        """
        raw = picture.raw
        if raw is None:
            return None
        development = self.development
        if self.neutral is not None:
            x, y = self.neutral
            if x >= picture.width or y >= picture.height:
                raise RecipeError(f"--neutral {x},{y} lies outside {picture.width} × {picture.height} px.")
            gains = balance_from_neutral(raw, (x + 0.5) / picture.width, (y + 0.5) / picture.height)
            if gains is None:
                raise RecipeError(f"--neutral {x},{y}: too dark or clipped there. Choose another place.")
            development = development.replace(neutral=gains, light=None)
        return None if development == Development() else development


def parse_development(
    method: str,
    light: str | None,
    neutral: str | None,
    exposure_ev: float,
    highlights: str,
    curve: str,
    space: str,
) -> DevelopmentRequest:
    """Parse the options for developing.

    Raises
    ------
    RecipeError : when one of them cannot be used
    """
    given = {
        "method": method.lower(),
        "exposure_ev": exposure_ev,
        "highlights": highlights.lower(),
        "curve": curve.lower(),
        "space": space.lower(),
        "light": None if light is None else _light(light),
    }
    try:
        development = Development.model_validate(given)
    except ValidationError as error:
        place = str(error.errors()[0]["loc"][0])
        option = _OPTIONS.get(place, place)
        raise RecipeError(f"{option} cannot be “{given.get(place)}”: {error.errors()[0]['msg']}.") from error
    return DevelopmentRequest(development, None if neutral is None else _place(neutral))


def _light(text: str) -> Light:
    match = re.fullmatch(r"(\d{1,7}(?:\.\d+)?)K?(?::(-?\d{1,7}(?:\.\d+)?))?", text.strip(), re.IGNORECASE)
    if match is None:
        raise RecipeError(f"--light cannot be “{text}”. Write it like 5200 or 5200:8, kelvin and tint.")
    try:
        return Light(kelvin=float(match[1]), tint=float(match[2] or 0))
    except ValidationError as error:
        raise RecipeError(f"--light {text} cannot be: {describe_validation_error(error)}.") from error


def _place(text: str) -> tuple[int, int]:
    match = re.fullmatch(r"(\d{1,7}),(\d{1,7})", text.replace(" ", ""))
    if match is None:
        raise RecipeError(f"--neutral cannot be “{text}”. Write it like 820,410: column, row.")
    return int(match[1]), int(match[2])
