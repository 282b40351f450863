"""From a sheet to the size of a picture: how framing, sheet and factor hang together."""

from __future__ import annotations

from dataclasses import dataclass

from wamplex.core.geometry.framing import Framing, crop_to_ratio
from wamplex.core.geometry.sheet import Sheet, fit_to_sheet
from wamplex.core.geometry.size import Size


@dataclass(frozen=True)
class Layout:
    """Framing, sheet and size of one picture, which fit each other."""

    framing: Framing
    sheet: Sheet | None
    size: Size


def lay_on_sheet(framing: Framing, sheet: Sheet, density_ppi: float, width: int, height: int) -> Layout:
    """Lay a picture on a sheet; where the sheet is to be filled, the crop changes.

    Parameters
    ----------
    framing : turning and crop that are decided already
    sheet : the sheet, already oriented
    density_ppi : of the print, in pixels per inch; lower in the result where the factor reaches its limit
    width, height : of the picture as it lies in its file, in pixels

    Returns
    -------
    Framing, sheet and size that fit each other.

    Raises
    ------
    SizeError : when the picture cannot be printed on this sheet
    """
    if sheet.place == "fill":
        framing = crop_to_ratio(framing, width, height, sheet.ratio)
    size = Size(*framing.size(width, height), 1.0, density_ppi)
    return Layout(framing, sheet, fit_to_sheet(size, sheet))


def orient_sheet(sheet: Sheet, width: int, height: int) -> Sheet:
    """Rotate a sheet as the picture lies: upright or lying.

    Parameters
    ----------
    sheet : the sheet in either orientation
    width : columns of the cropped picture
    height : rows of the cropped picture

    Returns
    -------
    The sheet.
    """
    short, long = sorted((sheet.width_mm, sheet.height_mm))
    across, down = (long, short) if width >= height else (short, long)
    return sheet.replace(width_mm=across, height_mm=down)
