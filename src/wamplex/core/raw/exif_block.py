"""The EXIF of a developed raw file: that of its preview where it has one, else what the camera noted."""

from __future__ import annotations

import io
from fractions import Fraction
from typing import Any

from wamplex.core.model.raw_file import Exposure

_DENOMINATOR = 16_000
# CIPA DC-008 (Exif 2.32), tables 3 to 8.
_MAKE, _MODEL, _ORIENTATION, _EXIF = 271, 272, 274, 34665
_EXPOSURE_S, _APERTURE, _ISO, _FOCAL_MM, _LENS = 33434, 33437, 34855, 37386, 42036


def exif_block(shot: Exposure, preview: bytes | None = None) -> bytes | None:
    """A block of EXIF that says upright.

    Parameters
    ----------
    preview : JPEG out of the raw file

    Returns
    -------
    None where nothing is known.
    """
    from PIL import Image

    exif = Image.Exif()
    if preview is not None:
        try:
            with Image.open(io.BytesIO(preview)) as image:
                exif = image.getexif()
        except Exception:  # a preview is a convenience; what the camera noted is there as well
            exif = Image.Exif()
    inner = exif.get_ifd(_EXIF)
    if shot.camera and _MODEL not in exif:
        exif[_MODEL] = shot.camera
    noted = {
        _EXPOSURE_S: _rational(shot.exposure_s),
        _APERTURE: _rational(shot.aperture),
        _ISO: round(shot.iso),
        _FOCAL_MM: _rational(shot.focal_mm),
        _LENS: shot.lens,
    }
    for tag, value in noted.items():
        if value and tag not in inner:
            inner[tag] = value
    if not inner and not len(exif):
        return None
    exif[_ORIENTATION] = 1
    return bytes(exif.tobytes())


def _rational(value: float) -> Any:
    """As a camera writes it: 1/125, not 0.00800000038."""
    from PIL.TiffImagePlugin import IFDRational

    near = Fraction(value).limit_denominator(_DENOMINATOR)
    return IFDRational(near.numerator, near.denominator)
