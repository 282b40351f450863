"""The list of upscalers. Adding one is a file and a line here."""

from __future__ import annotations

from wamplex.core.errors import RecipeError
from wamplex.core.upscale.interface import Upscaler
from wamplex.core.upscale.interpolation import (
    BICUBIC,
    BILINEAR_UPSCALER,
    LANCZOS,
    MITCHELL_UPSCALER,
    NEAREST,
)
from wamplex.core.upscale.vellum import VELLUM

UPSCALERS: tuple[Upscaler, ...] = (NEAREST, BILINEAR_UPSCALER, BICUBIC, MITCHELL_UPSCALER, LANCZOS, VELLUM)


def find_upscaler(key: str) -> Upscaler:
    """The upscaler with this key.

    Raises
    ------
    RecipeError : when there is none
    """
    for upscaler in UPSCALERS:
        if upscaler.key == key.lower():
            return upscaler
    known = ", ".join(u.key for u in UPSCALERS)
    raise RecipeError(f"There is no upscaler called “{key}”. Choose one of: {known}.")
