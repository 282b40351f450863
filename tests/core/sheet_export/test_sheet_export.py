"""The paper strip and the proof sheet hold the very pixels of the results, at the print's density."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from skimage import data

from wamplex.core.analysis.content.spots import Spot
from wamplex.core.base.errors import DeliveryError
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.render.render import render
from wamplex.core.sheet_export.cells import Cells, Column, render_cells
from wamplex.core.sheet_export.page_writers import write_sheet_pdf, write_sheet_png
from wamplex.core.sheet_export.sheet_layout import sheet_page, strip_cell_px, strip_page

SPOTS = (Spot(0.5, 0.5, "detail", "Cup"), Spot(0.0, 1.0, "own", "A corner with a rather long name"))


@pytest.fixture(scope="module")
def picture() -> Picture:
    return Picture(data.coffee().astype(np.float32) / 255)


def cells_of(picture: Picture, width: int, height: int) -> Cells:
    columns = [
        Column(x, Recipe(base=TrialSpec(upscaler=key), factor=2)) for x, key in (("A", "bicubic"), ("B", "lanczos"))
    ]
    return render_cells(picture, "coffee", SPOTS, columns, width, height)


def test_cells_are_the_pixels_of_the_result(picture: Picture) -> None:
    cells = cells_of(picture, 200, 120)
    whole = render(picture, Recipe(base=TrialSpec(upscaler="lanczos"), factor=2), Window(0, 0, 1200, 800))
    expected = np.rint(whole[340:460, 500:700] * 255).astype(np.uint8)
    assert np.array_equal(cells.pixels[0][1], expected)
    assert np.array_equal(cells.pixels[1][1], np.rint(whole[-120:, :200] * 255).astype(np.uint8))


# ISO 216: A4 is 210 x 297 mm, A5 is 148 x 210 mm; strips lie.
@pytest.mark.parametrize(("paper", "sides"), [("10x15", (150, 100)), ("a5", (210, 148)), ("a4", (297, 210))])
def test_strips_keep_to_paper_and_density(paper: str, sides: tuple[int, int], picture: Picture) -> None:
    """300 ppi is 11.811 pixels a millimetre."""
    width, height = strip_cell_px(paper, 2, 2, 300)
    page = strip_page(cells_of(picture, width, height), paper)
    assert (page.width, page.height) == sides
    for placed in page.pictures:
        assert placed.pixels.shape[1] / placed.width == pytest.approx(11.811, abs=1e-3)
        assert placed.x + placed.width < page.width
        assert placed.y + placed.height < page.height
    assert any("A corner" in text.text for text in page.texts)


def test_too_many_cells_for_the_paper_are_refused() -> None:
    with pytest.raises(DeliveryError, match="larger paper"):
        strip_cell_px("10x15", 40, 6, 300)


def test_the_png_holds_the_cells_unchanged(picture: Picture, tmp_path: Path) -> None:
    page = sheet_page(cells_of(picture, 200, 120))
    write_sheet_png(page, tmp_path / "sheet.png", 4.0)
    with Image.open(tmp_path / "sheet.png") as image:
        pixels = np.asarray(image.convert("RGB"))
    for placed in page.pictures:
        x, y = round(placed.x * 4), round(placed.y * 4)
        assert np.array_equal(pixels[y : y + 120, x : x + 200], placed.pixels)


def test_what_cannot_be_written_is_said(picture: Picture, tmp_path: Path) -> None:
    with pytest.raises(DeliveryError, match="cannot be written"):
        write_sheet_pdf(sheet_page(cells_of(picture, 40, 40)), tmp_path / "no folder" / "sheet.pdf")
