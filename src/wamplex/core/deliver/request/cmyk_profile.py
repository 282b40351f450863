"""Files in a printer's four inks, by its own ICC profile."""

from __future__ import annotations

from wamplex.core.base.errors import DeliveryError
from wamplex.core.colour.soft_proof import read_profile
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.file_formats import FILE_FORMATS

INKS = 4


def printer_profile(delivery: Delivery) -> bytes | None:
    """The profile that the file is separated by, None where it is not.

    Raises
    ------
    DeliveryError : when it cannot be read, is not for four inks, or the format has no place for them
    """
    if delivery.printer is None:
        return None
    if not FILE_FORMATS[delivery.format].cmyk:
        raise DeliveryError("A CMYK printer profile needs TIFF or PDF. Choose one, or another profile.")
    return read_profile(delivery.printer, (INKS,))
