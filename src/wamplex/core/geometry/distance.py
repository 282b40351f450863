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

    Parameters
    ----------
    distance_mm : viewing distance, in millimetres

    Returns
    -------
    Pixels per inch.
    """
    return MM_PER_INCH / (distance_mm * math.tan(math.radians(ACUITY_ARCMIN / 60)))


def arc_minutes(density_ppi: float, distance_mm: float) -> float:
    """Angle that one pixel of a print subtends at a distance.

    Parameters
    ----------
    density_ppi : pixels per inch of the print
    distance_mm : viewing distance, in millimetres

    Returns
    -------
    Minutes of arc.
    """
    return math.degrees(math.atan(MM_PER_INCH / density_ppi / distance_mm)) * 60
