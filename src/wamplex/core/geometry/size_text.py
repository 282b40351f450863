"""Sizes in words, as photographers read them."""

from __future__ import annotations

import re
from typing import Literal

from wamplex.core.base.errors import SizeError
from wamplex.core.geometry.size import MM_PER_INCH, Size, sharp_distance_mm

Unit = Literal["cm", "mm", "in"]
MM_PER_UNIT: dict[Unit, float] = {"cm": 10.0, "mm": 1.0, "in": MM_PER_INCH}
UNITS: tuple[Unit, ...] = ("cm", "mm", "in")
_DECIMALS: dict[Unit, int] = {"cm": 1, "mm": 0, "in": 2}


def print_size_text(width_mm: float, height_mm: float, unit: Unit) -> str:
    """Print size such as “67.7 × 50.8 cm”."""
    per, places = MM_PER_UNIT[unit], _DECIMALS[unit]
    return f"{width_mm / per:.{places}f} × {height_mm / per:.{places}f} {unit}"


def distance_text(distance_mm: float) -> str:
    """Viewing distance such as “29 cm” or “1.2 m”."""
    return f"{distance_mm / 10:.0f} cm" if distance_mm < 995 else f"{distance_mm / 1000:.1f} m"


def density_text(density_ppi: float) -> str:
    """Density such as “300 ppi”; a tenth where it is no whole number."""
    return f"{density_ppi:.1f}".removesuffix(".0") + " ppi"


def size_summary(size: Size, unit: Unit) -> str:
    """One line that says what the size comes to."""
    return (
        f"{size.factor:.4g}×, {size.width_px} × {size.height_px} px, {size.megapixels:.3g} MP, "
        f"{print_size_text(size.width_mm, size.height_mm, unit)} at {density_text(size.density_ppi)}, "
        f"sharp from {distance_text(sharp_distance_mm(size.density_ppi))}"
    )


def parse_print_size(text: str) -> tuple[float, float]:
    """Width and height in mm from text such as ``60x40cm``, ``8x10in`` or ``297x420mm``.

    Raises
    ------
    SizeError : when the text is no print size

    Examples
    --------
    >>> parse_print_size("60x40cm")
    (600.0, 400.0)
    """
    match = re.fullmatch(r"\s*([\d.]{1,12})\s*[x×]\s*([\d.]{1,12})\s*(cm|mm|in)\s*", text.lower())
    try:
        if match is None:
            raise ValueError
        width, height = float(match[1]), float(match[2])
    except ValueError:
        raise SizeError(f"“{text}” is no print size. Write it like 60x40cm, 8x10in or 297x420mm.") from None
    if width <= 0 or height <= 0:
        raise SizeError(f"“{text}” is no print size: both sides must be larger than 0.")
    per = next(per for unit, per in MM_PER_UNIT.items() if unit == match[3])
    return width * per, height * per


def byte_size_text(count: float) -> str:
    """File size such as “25.9 MB” (powers of 1000)."""
    for unit in ("B", "kB", "MB"):
        if count < 999.5:
            return f"{count:.0f} {unit}" if unit == "B" else f"{count:.3g} {unit}"
        count /= 1000
    return f"{count:.3g} GB"
