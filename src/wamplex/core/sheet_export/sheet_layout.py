"""Lays out cells: a sheet as large as needed, or strips on paper at the density of the print."""

from __future__ import annotations

from wamplex.core.base.errors import DeliveryError
from wamplex.core.geometry.size import MM_PER_INCH
from wamplex.core.sheet_export.cells import Cells
from wamplex.core.sheet_export.page import PlacedPicture, PlacedText, Rule, SheetPage

# ISO 216 A4 and A5; 10 x 15 cm is a common photographic size.
STRIP_PAPERS_MM: dict[str, tuple[float, float]] = {"10x15": (150.0, 100.0), "a5": (210.0, 148.0), "a4": (297.0, 210.0)}
SHEET_PX_PER_MM = 4.0
_MARGIN, _GAP, _HEAD, _NAME, _LINE, _FOOT = 7.0, 1.5, 8.0, 22.0, 3.4, 6.0
_LEAST_CELL_MM = 6.0
# Of a character of the text face, in points per point of size, on average.
_CHARACTER = 0.52


def strip_cell_px(paper: str, spots: int, trials: int, density_ppi: float) -> tuple[int, int]:
    """Pixels of a cell of a paper strip at which one pixel is one pixel of the print.

    Raises
    ------
    DeliveryError : when the cells would be too small to judge
    """
    width, height = STRIP_PAPERS_MM[paper]
    cell_width = (width - 2 * _MARGIN - _NAME - _GAP * trials) / trials
    cell_height = (height - 2 * _MARGIN - _HEAD - _FOOT - _GAP * spots) / spots
    if min(cell_width, cell_height) < _LEAST_CELL_MM:
        raise DeliveryError("There are too many spots or trials for this paper. Strike some, or choose larger paper.")
    per_mm = density_ppi / MM_PER_INCH
    return int(cell_width * per_mm), int(cell_height * per_mm)


def sheet_page(cells: Cells) -> SheetPage:
    """The proof sheet on a page of the size it needs, four pixels a millimetre."""
    height, width = cells.pixels[0][0].shape[:2]
    cell = (width / SHEET_PX_PER_MM, height / SHEET_PX_PER_MM)
    page = SheetPage(
        2 * _MARGIN + _NAME + len(cells.columns) * (cell[0] + _GAP),
        2 * _MARGIN + _HEAD + len(cells.spots) * (cell[1] + _GAP) + _FOOT,
    )
    return _filled(page, cells, cell, SHEET_PX_PER_MM)


def strip_page(cells: Cells, paper: str) -> SheetPage:
    """The paper strip: every pixel exactly as large as it will be in the print."""
    per_mm = cells.density_ppi / MM_PER_INCH
    height, width = cells.pixels[0][0].shape[:2]
    return _filled(SheetPage(*STRIP_PAPERS_MM[paper]), cells, (width / per_mm, height / per_mm), per_mm)


def _filled(page: SheetPage, cells: Cells, cell: tuple[float, float], per_mm: float) -> SheetPage:
    left, top = _MARGIN + _NAME, _MARGIN + _HEAD
    for number, column in enumerate(cells.columns):
        x = left + number * (cell[0] + _GAP)
        page.texts.append(PlacedText(f"{column.letter}  {column.name}", x, _MARGIN + 3, 8, "heading", cell[0]))
        page.texts.append(PlacedText(column.values_text, x, _MARGIN + 6.2, 5.5, room=cell[0]))
    for row, spot in enumerate(cells.spots):
        y = top + row * (cell[1] + _GAP)
        page.rules.append(Rule(_MARGIN, y - _GAP / 2, page.width - _MARGIN, y - _GAP / 2))
        for line, text in enumerate(_wrapped(spot.name, 7, _NAME - 2)):
            page.texts.append(PlacedText(text, _MARGIN, y + 3 + line * _LINE, 7, "bold", _NAME))
        for number, pixels in enumerate(cells.pixels[row]):
            height, width = pixels.shape[:2]
            x = left + number * (cell[0] + _GAP)
            page.pictures.append(PlacedPicture(pixels, x, y, width / per_mm, height / per_mm))
    density = f"{cells.density_ppi:g} ppi" if per_mm != SHEET_PX_PER_MM else "every cell at final size"
    colours = "sRGB" if cells.profile == "sRGB" else f"sRGB, made from {cells.profile}"
    text = f"{cells.name} · {cells.factor:.4g}× · {density} · colours: {colours} · Wamplex"
    page.texts.append(PlacedText(text, _MARGIN, page.height - _MARGIN + 1, 5.5))
    return page


def _wrapped(text: str, size: float, width_mm: float) -> list[str]:
    """Words in lines that fit into ``room`` mm, by the mean width of a character."""
    max_characters = max(4, int(width_mm / (size * _CHARACTER * MM_PER_INCH / 72)))
    lines = [""]
    for word in text.split():
        if lines[-1] and len(lines[-1]) + 1 + len(word) > max_characters:
            lines.append(word)
        else:
            lines[-1] = f"{lines[-1]} {word}".strip()
    return lines
