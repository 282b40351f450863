"""The list of upscalers. Adding one is a file and a line here."""

from __future__ import annotations

from wamplex.core.base.errors import RecipeError
from wamplex.core.frames.concert import CONCERT
from wamplex.core.guests.guest import PREFIX
from wamplex.core.guests.guest_store import find_guest
from wamplex.core.upscale.upscalers.burin import BURIN
from wamplex.core.upscale.upscalers.contour import CONTOUR
from wamplex.core.upscale.upscalers.interface import Upscaler
from wamplex.core.upscale.upscalers.interpolation import (
    BICUBIC,
    BILINEAR_UPSCALER,
    LANCZOS,
    MITCHELL_UPSCALER,
    NEAREST,
)
from wamplex.core.upscale.upscalers.mender import MENDER
from wamplex.core.upscale.upscalers.tessera import TESSERA
from wamplex.core.upscale.upscalers.thicket import THICKET
from wamplex.core.upscale.upscalers.vellum import VELLUM, VELLUM_QUICK
from wamplex.core.upscale.user_networks.network_store import user_upscalers

UPSCALERS: tuple[Upscaler, ...] = (
    NEAREST,
    BILINEAR_UPSCALER,
    BICUBIC,
    MITCHELL_UPSCALER,
    LANCZOS,
    CONTOUR,
    VELLUM,
    VELLUM_QUICK,
    MENDER,
    BURIN,
    THICKET,
)
# Of raw files alone.
SENSOR_UPSCALERS: tuple[Upscaler, ...] = (TESSERA,)
# Of several frames of one scene alone.
FRAMES_UPSCALERS: tuple[Upscaler, ...] = (CONCERT,)


def known_upscalers() -> tuple[Upscaler, ...]:
    """All upscalers: built in, for raw files, for several frames, and the user's own.

    Returns
    -------
    In this order.
    """
    return (*UPSCALERS, *SENSOR_UPSCALERS, *FRAMES_UPSCALERS, *user_upscalers())


def is_known(key: str) -> bool:
    """Whether there is such an upscaler or guest.

    Parameters
    ----------
    key : key of the upscaler
    """
    try:
        find_upscaler(key)
    except RecipeError:
        return False
    return True


def find_upscaler(key: str) -> Upscaler:
    """Find an upscaler, or a guest, by its key.

    Parameters
    ----------
    key : key of the upscaler

    Returns
    -------
    The upscaler.

    Raises
    ------
    RecipeError : when there is none
    """
    if key.startswith(PREFIX):
        return find_guest(key)
    for upscaler in known_upscalers():
        if upscaler.key == key.lower():
            return upscaler
    keys = ", ".join(u.key for u in known_upscalers())
    raise RecipeError(f"There is no upscaler called “{key}”. Choose one of: {keys}.")
