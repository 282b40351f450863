"""Writes pages as PDF and PNG, and the proof sheet as a page for a browser."""

from __future__ import annotations

import base64
import html
import io
from collections.abc import Callable
from functools import partial
from pathlib import Path

import numpy as np
import pyvips

from wamplex.core.base.array_types import Rgb8
from wamplex.core.base.atomic_files import write_atomically
from wamplex.core.base.errors import DeliveryError
from wamplex.core.base.resources import FONTS_DIR
from wamplex.core.geometry.size import MM_PER_INCH
from wamplex.core.sheet_export.cells import Cells
from wamplex.core.sheet_export.page import FontFace, PlacedText, SheetPage

_FILES: dict[FontFace, str] = {
    "text": "PublicSans-400.ttf",
    "bold": "PublicSans-600.ttf",
    "heading": "SourceSerif4-600.ttf",
}
_FAMILIES: dict[FontFace, str] = {
    "text": "Public Sans",
    "bold": "Public Sans SemiBold",
    "heading": "Source Serif 4 SemiBold",
}
_POINTS_PER_MM = 72 / MM_PER_INCH
_INK = (0x23 / 255, 0x21 / 255, 0x1D / 255)
_RULE = (0xCF / 255, 0xC8 / 255, 0xB8 / 255)


def write_sheet_pdf(page: SheetPage, path: Path) -> None:
    """A PDF with real text; pictures pixel by pixel, nothing lost.

    Parameters
    ----------
    page : drawn page
    path : the file

    Raises
    ------
    DeliveryError : when it cannot be written
    """
    from reportlab.lib.utils import ImageReader
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont
    from reportlab.pdfgen.canvas import Canvas

    for face, file in _FILES.items():
        pdfmetrics.registerFont(TTFont(f"wamplex-{face}", str(FONTS_DIR / file)))
    buffer = io.BytesIO()
    canvas = Canvas(buffer, (page.width * _POINTS_PER_MM, page.height * _POINTS_PER_MM))
    canvas.setTitle("Wamplex proof")
    canvas.setStrokeColorRGB(*_RULE)
    canvas.setLineWidth(0.3)

    def up(y: float) -> float:
        return (page.height - y) * _POINTS_PER_MM

    for rule in page.rules:
        canvas.line(rule.x1 * _POINTS_PER_MM, up(rule.y1), rule.x2 * _POINTS_PER_MM, up(rule.y2))
    for placed in page.pictures:
        canvas.drawImage(
            ImageReader(io.BytesIO(_png(placed.pixels))),
            placed.x * _POINTS_PER_MM,
            up(placed.y + placed.height),
            placed.width * _POINTS_PER_MM,
            placed.height * _POINTS_PER_MM,
        )
    canvas.setFillColorRGB(*_INK)
    for text in page.texts:
        font = f"wamplex-{text.face}"
        line = _cut(text, partial(_pdf_width_mm, font, text.size))
        canvas.setFont(font, text.size)
        canvas.drawString(text.x * _POINTS_PER_MM, up(text.y), line)
    canvas.save()
    _write(path, buffer.getvalue())


def _pdf_width_mm(font: str, size: float, text: str) -> float:
    from reportlab.pdfbase import pdfmetrics

    return float(pdfmetrics.stringWidth(text, font, size)) / _POINTS_PER_MM


def write_sheet_png(page: SheetPage, path: Path, px_per_mm: float) -> None:
    """A PNG in which the pictures keep their pixels.

    Parameters
    ----------
    page : drawn page
    path : the file
    px_per_mm : that of the pictures on the page

    Raises
    ------
    DeliveryError : when it cannot be written
    """
    width, height = (round(side * px_per_mm) for side in (page.width, page.height))
    canvas = np.full((height, width, 3), 255, np.uint8)
    for rule in page.rules:
        y = round(rule.y1 * px_per_mm)
        canvas[y : y + 1, round(rule.x1 * px_per_mm) : round(rule.x2 * px_per_mm)] = [int(255 * c) for c in _RULE]
    for placed in page.pictures:
        x, y = round(placed.x * px_per_mm), round(placed.y * px_per_mm)
        part = placed.pixels[: height - y, : width - x]
        canvas[y : y + part.shape[0], x : x + part.shape[1]] = part
    for text in page.texts:
        _draw_text(canvas, text, px_per_mm)
    image = pyvips.Image.new_from_array(canvas).copy(xres=px_per_mm, yres=px_per_mm, interpretation="srgb")
    _write(path, image.pngsave_buffer())


def write_sheet_html(cells: Cells, path: Path) -> None:
    """One file for a browser: the sheet, and a curtain between any two trials of each spot.

    Parameters
    ----------
    cells : rendered cells
    path : the file

    Raises
    ------
    DeliveryError : when it cannot be written
    """
    template = (Path(__file__).parent / "sheet.html").read_text()
    heads = "".join(
        f"<th><b>{c.letter}</b> {html.escape(c.name)}<small>{html.escape(c.values_text)}</small></th>"
        for c in cells.columns
    )
    rows = "".join(
        f"<tr><th>{html.escape(spot.name)}</th>"
        + "".join(f'<td><img alt="{c.letter}" src="{_data(p)}"></td>' for c, p in zip(cells.columns, row, strict=True))
        + "</tr>"
        for spot, row in zip(cells.spots, cells.pixels, strict=True)
    )
    title = f"{cells.name}, {cells.factor:.4g}×"
    for name, text in (("TITLE", html.escape(title)), ("HEADS", heads), ("ROWS", rows)):
        template = template.replace(f"<!--{name}-->", text)
    _write(path, template.encode())


def _draw_text(canvas: Rgb8, text: PlacedText, px_per_mm: float) -> None:
    height_px = text.size / _POINTS_PER_MM * px_per_mm

    def rendered(line: str) -> Rgb8:
        image = pyvips.Image.text(
            line.replace("&", "&amp;").replace("<", "&lt;"),
            font=f"{_FAMILIES[text.face]}, {max(1, round(height_px))}",
            fontfile=str(FONTS_DIR / _FILES[text.face]),
            dpi=72,
        )
        mask: Rgb8 = image.numpy()
        return mask if mask.ndim == 2 else mask[..., 0]

    if not text.text.strip():
        return
    line = _cut(text, lambda w: rendered(w).shape[1] / px_per_mm if w.strip() else 0.0)
    mask = rendered(line).astype(np.float32)[..., None] / 255
    # The mask is as high as its own letters: its foot, not counting what hangs below, is the baseline.
    hanging = 0.22 * height_px if any(c in line for c in "gjpqy,;()") else 0.0
    x, y = round(text.x * px_per_mm), max(0, round(text.y * px_per_mm - mask.shape[0] + hanging))
    part = canvas[y : y + mask.shape[0], x : x + mask.shape[1]]
    mask = mask[: part.shape[0], : part.shape[1]]
    ink = np.array(_INK, np.float32) * 255
    part[...] = np.rint(part * (1 - mask) + ink * mask).astype(np.uint8)


def _cut(text: PlacedText, width_mm: Callable[[str], float]) -> str:
    """The words, or as much of them as there is room for."""
    line = text.text
    if width_mm(line) <= text.room:
        return line
    while line and width_mm(line + "…") > text.room:
        line = line[:-1]
    return line.rstrip() + "…"


def _png(pixels: Rgb8) -> bytes:
    png: bytes = pyvips.Image.new_from_array(np.ascontiguousarray(pixels)).pngsave_buffer()
    return png


def _data(pixels: Rgb8) -> str:
    return "data:image/png;base64," + base64.b64encode(_png(pixels)).decode()


def _write(path: Path, data: bytes) -> None:
    try:
        write_atomically(path, data)
    except OSError as error:
        raise DeliveryError(f"{path.name} cannot be written: {error.strerror or error}.") from error
