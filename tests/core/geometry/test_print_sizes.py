"""Prints in pixels, against the tables that print shops and standards give."""

from __future__ import annotations

import numpy as np
import pytest

from wamplex.core.geometry.paper import PAPERS
from wamplex.core.geometry.sheet import Sheet, file_pixels, fit_to_sheet, rings
from wamplex.core.geometry.size import Size

# Pixels of papers at 300 ppi as print shops list them; common practice. The sides are those of ISO 216.
AT_300_PPI = {
    "A0": (9933, 14043),
    "A1": (7016, 9933),
    "A2": (4961, 7016),
    "A3": (3508, 4961),
    "A4": (2480, 3508),
    "A5": (1748, 2480),
    "A6": (1240, 1748),
    "4 × 6 in": (1200, 1800),
    "5 × 7 in": (1500, 2100),
    "8 × 10 in": (2400, 3000),
    "16 × 20 in": (4800, 6000),
    "20 × 30 cm": (2362, 3543),
    "30 × 40 cm": (3543, 4724),
    "50 × 70 cm": (5906, 8268),
}


@pytest.mark.parametrize("name", list(AT_300_PPI))
def test_papers_have_the_pixels_print_shops_list(name: str) -> None:
    paper = next(p for p in PAPERS if p.name == name)
    sheet = Sheet(width_mm=paper.short_mm, height_mm=paper.long_mm)
    size = Size(AT_300_PPI[name][0] // 4, AT_300_PPI[name][1] // 4, 4.0)
    assert file_pixels(fit_to_sheet(size, sheet), sheet) == AT_300_PPI[name]


# ISO 216:2007, tables 1 and 2 (from memory).
ISO_216 = {
    "A0": (841, 1189), "A1": (594, 841), "A2": (420, 594), "A3": (297, 420), "A4": (210, 297),
    "A5": (148, 210), "A6": (105, 148), "B0": (1000, 1414), "B1": (707, 1000), "B2": (500, 707),
    "B3": (353, 500), "B4": (250, 353), "B5": (176, 250), "B6": (125, 176),
}  # fmt: skip


@pytest.mark.parametrize("name", list(ISO_216))
def test_papers_have_the_standard_s_sides(name: str) -> None:
    paper = next(p for p in PAPERS if p.name == name)
    assert (paper.short_mm, paper.long_mm) == ISO_216[name]


@pytest.mark.parametrize("density", [72, 150, 254, 300, 360])
@pytest.mark.parametrize("margin", [0, 5, 12.5])
def test_fitted_files_have_the_very_sheet(density: float, margin: float) -> None:
    sheet = Sheet(width_mm=297, height_mm=210, margin_mm=margin)
    size = fit_to_sheet(Size(3000, 1700, 1.0, density), sheet)
    width, height = file_pixels(size, sheet)
    assert abs(width - 297 / 25.4 * density) <= 1
    assert abs(height - 210 / 25.4 * density) <= 1


@pytest.mark.parametrize("place", ["fit", "fill", "extend"])
def test_bleed_and_wrap_are_added_on_every_side(place: str) -> None:
    plain = Sheet.model_validate({"width_mm": 150, "height_mm": 100, "place": place})

    def made(sheet: Sheet) -> tuple[int, int]:
        cropped = round(600 * sheet.ratio) if place == "fill" else 900
        return file_pixels(fit_to_sheet(Size(cropped, 600, 2.0, 304.8), sheet), sheet)  # 12 pixels a millimetre

    base = np.array(made(plain))
    assert np.allclose(made(plain.replace(bleed_mm=3.0)), base + 72, atol=2)
    assert np.allclose(made(plain.replace(wrap_mm=30.0)), base + 720, atol=1)


def test_a_picture_of_the_sheets_ratio_needs_nothing_around_it() -> None:
    sheet = Sheet(width_mm=150, height_mm=100)
    assert rings(fit_to_sheet(Size(900, 600, 2.0, 304.8), sheet), sheet) == ()
    assert rings(Size(10, 10, 1.0), None) == ()
