"""Divides a print that is larger than the printer's sheet into pages that overlap."""

from __future__ import annotations

from dataclasses import dataclass

from pydantic import Field

from wamplex.core.base.errors import SizeError
from wamplex.core.base.frozen_model import FrozenModel
from wamplex.core.base.window import Window
from wamplex.core.geometry.size import MM_PER_INCH

MOST_PAGES = 400


class Pages(FrozenModel):
    """The printer's sheet, upright or lying, and how far neighbouring pages overlap."""

    width_mm: float = Field(gt=20, le=5000)
    height_mm: float = Field(gt=20, le=5000)
    overlap_mm: float = Field(default=10.0, ge=0, le=100)


@dataclass(frozen=True)
class Page:
    """One page of a print.

    Attributes
    ----------
    row, column : counted from 1
    window : the pixels of the whole file that it shows
    overlap_px : pixels at its right and lower edge that the next page is laid over; 0 where there is none
    """

    row: int
    column: int
    window: Window
    overlap_px: tuple[int, int] = (0, 0)


def divide_into_pages(width: int, height: int, density_ppi: float, pages: Pages | None) -> tuple[Page, ...]:
    """Divide a file into pages of the printer's paper, row by row.

    The printer's sheet is taken upright or lying, whichever needs fewer pages.

    Parameters
    ----------
    width : columns of the file
    height : rows of the file
    density_ppi : pixels per inch of the print
    pages : paper of the pages, None for a single page

    Returns
    -------
    Pages with their windows in pixels; a single one without ``pages``.

    Raises
    ------
    SizeError : when the overlap leaves nothing of a page, or there would be too many
    """
    full = Window(0, 0, width, height)
    if pages is None:
        return (Page(1, 1, full),)
    across, down, overlap = (
        round(mm / MM_PER_INCH * density_ppi) for mm in (pages.width_mm, pages.height_mm, pages.overlap_mm)
    )
    if min(across, down) <= 2 * overlap:
        raise SizeError(f"An overlap of {pages.overlap_mm:g} mm leaves nothing of these pages.")
    options = [_grid(width, height, *sides, overlap) for sides in ((across, down), (down, across))]
    best = min(options, key=len)
    if len(best) > MOST_PAGES:
        raise SizeError(f"This would be {len(best)} pages. Choose larger pages or a smaller print.")
    return best


def _grid(width: int, height: int, across: int, down: int, overlap: int) -> tuple[Page, ...]:
    lefts, tops = _starts(width, across, overlap), _starts(height, down, overlap)
    pages = []
    for row, y in enumerate(tops, 1):
        for column, x in enumerate(lefts, 1):
            window = Window(x, y, min(across, width - x), min(down, height - y))
            more = (overlap if column < len(lefts) else 0, overlap if row < len(tops) else 0)
            pages.append(Page(row, column, window, more))
    return tuple(pages)


def _starts(length: int, page: int, overlap: int) -> list[int]:
    starts = [0]
    while starts[-1] + page < length:
        starts.append(starts[-1] + page - overlap)
    return starts
