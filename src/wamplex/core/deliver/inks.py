"""Files in a printer's four inks, by its own ICC profile."""

from __future__ import annotations

from wamplex.core.colour.profile_check import fits, is_usable
from wamplex.core.deliver.delivery import Delivery
from wamplex.core.errors import DeliveryError

INKS = 4
_FORMATS = ("tiff", "pdf")
_LARGEST_BYTES = 50_000_000


def printer_profile(delivery: Delivery) -> bytes | None:
    """The profile that the file is separated by, None where it is not.

    Raises
    ------
    DeliveryError : when it cannot be read, is not for four inks, or the format has no place for them
    """
    if delivery.printer is None:
        return None
    name = delivery.printer.name
    if delivery.format not in _FORMATS:
        raise DeliveryError(
            f"Only TIFF and PDF are written in a printer's inks. Choose one, or leave {name} out."
        )
    try:
        with delivery.printer.open("rb") as file:
            profile = file.read(_LARGEST_BYTES)
    except OSError as error:
        raise DeliveryError(f"{name} cannot be read: {(error.strerror or str(error)).lower()}.") from error
    if not fits(profile, INKS) or not is_usable(profile, INKS):
        raise DeliveryError(f"{name} is no ICC profile of a printer with four inks.")
    return profile
