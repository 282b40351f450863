"""How close one may stand to a print, and what that asks of its density."""

from __future__ import annotations

import math

from wamplex.core.geometry.size import MM_PER_INCH

# Normal (20/20) vision resolves one arc minute, in the definition of Snellen (1862).
ACUITY_ARCMIN = 1.0


def density_for_mm(distance_mm: float) -> float:
    """Pixels per inch from which on single pixels are no longer seen from a distance.

    One pixel subtends one arc minute: pitch = distance * tan(1/60 degree); the inverse of
    `wamplex.core.geometry.size.sharp_from_mm`.

    Returns
    -------
    Pixels per inch.
    """
    return MM_PER_INCH / (distance_mm * math.tan(math.radians(ACUITY_ARCMIN / 60)))


def arc_minutes(density_ppi: float, distance_mm: float) -> float:
    """Angle that one pixel of a print subtends at a distance.

    Returns
    -------
    Minutes of arc.
    """
    return math.degrees(math.atan(MM_PER_INCH / density_ppi / distance_mm)) * 60


def usual_distance_mm(width_mm: float, height_mm: float) -> float:
    """Where people stand to take in a whole print: its diagonal away; common practice.

    Returns
    -------
    Millimetres.
    """
    return math.hypot(width_mm, height_mm)
