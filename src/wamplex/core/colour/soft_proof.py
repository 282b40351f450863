"""Profiles of screens and printers from files, and how much of a picture a printer cannot show."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.errors import DeliveryError, UnreadablePictureError
from wamplex.core.base.regular_files import read_regular_file
from wamplex.core.colour.convert import RenderingIntent, convert
from wamplex.core.colour.difference import ciede2000, srgb_to_lab
from wamplex.core.colour.icc import SRGB, make_profile
from wamplex.core.colour.profile_check import is_usable, profile_fits
from wamplex.core.model.picture import Pixels

_LARGEST_BYTES = 50_000_000
# A difference that is seen beside the true colour; common practice for proofs.
OUTSIDE_DELTA_E = 3.0


def read_profile(path: Path, channels: tuple[int, ...]) -> bytes:
    """Read an ICC profile from a file.

    Parameters
    ----------
    path : an ICC profile
    channels : numbers of colour channels that it may have

    Returns
    -------
    ICC profile.

    Raises
    ------
    DeliveryError : when it cannot be read, is damaged, or is for other channels
    """
    try:
        profile = read_regular_file(path, _LARGEST_BYTES)
    except UnreadablePictureError as error:
        raise DeliveryError(str(error)) from error
    if not any(profile_fits(profile, count) and is_usable(profile, count) for count in channels):
        kinds = {1: "grey", 3: "three colours", 4: "four inks"}
        raise DeliveryError(f"{path.name} is not an ICC profile for {' or '.join(kinds[c] for c in channels)}.")
    return profile


def out_of_gamut_fraction(srgb: NDArray[np.uint8], proof: bytes, intent: RenderingIntent) -> float:
    """How much of a picture comes out visibly otherwise: CIEDE2000 (Sharma et al. 2005) above 3.

    Parameters
    ----------
    srgb : (h, w, 3) uint8
    proof : the colours of the print, (H, W, 3)
    intent : rendering intent

    Returns
    -------
    Share of its pixels, 0 to 1.
    """
    difference = gamut_difference(srgb.astype(np.float32) / np.float32(255), proof, intent)
    return float((difference > OUTSIDE_DELTA_E).mean())


def gamut_difference(srgb: Pixels, proof: bytes, intent: RenderingIntent) -> NDArray[np.float64]:
    """How far a print differs from each colour: CIEDE2000 (Sharma et al. 2005).

    Parameters
    ----------
    srgb : (H, W, 3) float32 in 0..1
    proof : printer profile and intent
    intent : rendering intent

    Returns
    -------
    (H, W) float64.
    """
    screen = make_profile(SRGB)
    printed = convert(srgb, screen, screen, proof, intent)
    return ciede2000(srgb_to_lab(srgb), srgb_to_lab(printed))
