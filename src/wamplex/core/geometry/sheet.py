"""How a picture lies on a sheet: margins, bleed, canvas wrap, and what goes where it does not reach."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from pydantic import Field

from wamplex.core.base.errors import SizeError
from wamplex.core.base.frozen_model import FrozenModel
from wamplex.core.geometry.size import (
    LARGEST_DENSITY_PPI,
    LARGEST_FACTOR,
    LEAST_DENSITY_PPI,
    MM_PER_INCH,
    Size,
)

Place = Literal["fit", "fill", "extend"]
Filling = Literal["paper", "mirrored", "stretched", "blurred", "plain", "filled"]
Extension = Literal["mirrored", "blurred", "plain", "filled"]
Wrap = Literal["mirrored", "stretched", "blurred", "plain"]


class Sheet(FrozenModel):
    """A sheet as it hangs, and how the picture is placed on it.

    Attributes
    ----------
    width_mm, height_mm : of the sheet, as the print hangs
    place : "fit" shows all of the picture, with bare paper where the proportions differ; "fill" crops it
        to the sheet; "extend" shows all of it and makes something up beyond its edges
    margin_mm : bare paper on every side
    bleed_mm : picture beyond every side, to be cut off
    wrap_mm : picture that goes around the frame of a canvas on every side
    wrap : what goes around the frame
    extension : what "extend" puts beyond the picture's edges
    """

    name: str = "own size"
    width_mm: float = Field(gt=5, le=5000)
    height_mm: float = Field(gt=5, le=5000)
    place: Place = "fit"
    margin_mm: float = Field(default=0.0, ge=0, le=1000)
    bleed_mm: float = Field(default=0.0, ge=0, le=50)
    wrap_mm: float = Field(default=0.0, ge=0, le=200)
    wrap: Wrap = "mirrored"
    extension: Extension = "mirrored"

    @property
    def area_mm(self) -> tuple[float, float]:
        """Width and height of what the picture covers when it fills the sheet."""
        change = 2 * (self.bleed_mm - self.margin_mm)
        area = self.width_mm + change, self.height_mm + change
        if min(area) < 5:
            raise SizeError(f"With a margin of {self.margin_mm:g} mm nothing is left of the sheet.")
        return area

    @property
    def ratio(self) -> float:
        """Width by height of that area."""
        width, height = self.area_mm
        return width / height


@dataclass(frozen=True)
class Ring:
    """Pixels that are added around an image, on each side."""

    left: int
    top: int
    right: int
    bottom: int
    filling: Filling


def printed_size_mm(size: Size, sheet: Sheet) -> tuple[float, float]:
    """How large the picture itself comes out on a sheet.

    Parameters
    ----------
    size : size of the result
    sheet : sheet that the picture is printed on; None without one

    Returns
    -------
    Width and height in millimetres.
    """
    width, height = sheet.area_mm
    scale = min(width / size.source_width, height / size.source_height)
    if sheet.place == "fill":
        scale = max(width / size.source_width, height / size.source_height)
    return size.source_width * scale, size.source_height * scale


def fit_to_sheet(size: Size, sheet: Sheet) -> Size:
    """The size whose print has the sheet's: at its density if that can be, else with the largest factor.

    Parameters
    ----------
    size : size of the result
    sheet : sheet that the picture is printed on; None without one

    Returns
    -------
    With factor and, where the factor reaches its limit, density changed.
    """
    width_mm, _ = printed_size_mm(size, sheet)
    factor = width_mm / MM_PER_INCH * size.density_ppi / size.source_width
    if factor > LARGEST_FACTOR:
        return sheet_with_factor(size, sheet, LARGEST_FACTOR)
    return size.with_factor(max(factor, 0.25))


def sheet_with_factor(size: Size, sheet: Sheet, factor: float) -> Size:
    """Another factor on the same sheet: the print keeps its size, so the density changes.

    Parameters
    ----------
    size : size of the result
    sheet : sheet that the picture is printed on; None without one
    factor : enlargement, 0.25 to 8

    Returns
    -------
    Size with this factor and the density that follows.
    """
    width_mm, _ = printed_size_mm(size, sheet)
    density = factor * size.source_width / (width_mm / MM_PER_INCH)
    if not LEAST_DENSITY_PPI <= density <= LARGEST_DENSITY_PPI:
        raise SizeError(
            f"At {factor:.4g}× this sheet would be printed at {density:.3g} ppi, which is outside "
            f"{LEAST_DENSITY_PPI:g} to {LARGEST_DENSITY_PPI:g} ppi. Choose another factor or sheet."
        )
    return size.with_factor(factor).with_density(density)


def factor_needed(size: Size, sheet: Sheet, density_ppi: float) -> float:
    """Enlargement that a sheet takes at a density.

    Parameters
    ----------
    size : size of the result
    sheet : sheet that the picture is printed on; None without one
    density_ppi : pixels per inch of the print

    Returns
    -------
    Enlargement; may lie outside of what is possible.
    """
    width_mm, _ = printed_size_mm(size, sheet)
    return width_mm / MM_PER_INCH * density_ppi / size.source_width


def rings(size: Size, sheet: Sheet | None) -> tuple[Ring, ...]:
    """Borders around the enlarged picture, from the inside outwards.

    Parameters
    ----------
    size : size of the result
    sheet : sheet that the picture is printed on; None without one

    Returns
    -------
    Each in result pixels; empty without a sheet.
    """
    if sheet is None:
        return ()
    outer = tuple(_pixels(mm + 2 * sheet.bleed_mm, size) for mm in (sheet.width_mm, sheet.height_mm))
    margin = _pixels(sheet.margin_mm, size)
    present = (size.width_px, size.height_px)
    ring_list = []
    if sheet.place != "fill":
        area = (outer[0] - 2 * margin, outer[1] - 2 * margin)
        ring_list.append(_ring_to(area, present, "paper" if sheet.place == "fit" else sheet.extension))
        present = (max(area[0], present[0]), max(area[1], present[1]))
    if margin > 0:  # up to the very pixels of the sheet, whatever was rounded inside
        ring_list.append(_ring_to(outer, present, "paper"))
    wrap = _pixels(sheet.wrap_mm, size)
    ring_list.append(Ring(wrap, wrap, wrap, wrap, sheet.wrap))
    return tuple(ring for ring in ring_list if ring.left + ring.top + ring.right + ring.bottom > 0)


def _pixels(mm: float, size: Size) -> int:
    return round(mm / MM_PER_INCH * size.density_ppi)


def _ring_to(target: tuple[int, ...], present: tuple[int, int], filling: Filling) -> Ring:
    across, down = (max(want - have, 0) for want, have in zip(target, present, strict=True))
    return Ring(across // 2, down // 2, across - across // 2, down - down // 2, filling)


def file_pixels(size: Size, sheet: Sheet | None) -> tuple[int, int]:
    """Size of the file: the enlarged picture and everything around it on the sheet.

    Parameters
    ----------
    size : size of the result
    sheet : sheet that the picture is printed on; None without one

    Returns
    -------
    Columns and rows.
    """
    width, height = size.width_px, size.height_px
    for ring in rings(size, sheet):
        width, height = width + ring.left + ring.right, height + ring.top + ring.bottom
    return width, height


def picture_corner(size: Size, sheet: Sheet | None) -> tuple[int, int]:
    """Position of the enlarged picture in the file.

    Parameters
    ----------
    size : size of the result
    sheet : sheet that the picture is printed on; None without one

    Returns
    -------
    Column and row of its top left pixel.
    """
    ring_list = rings(size, sheet)
    return sum(ring.left for ring in ring_list), sum(ring.top for ring in ring_list)
