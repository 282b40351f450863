"""Papers, and what lies around a picture on its sheet."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image

from wamplex.core.base.errors import SizeError
from wamplex.core.base.window import Window
from wamplex.core.deliver.deliver import deliver
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.geometry.pages import Pages, divide_into_pages
from wamplex.core.geometry.paper import PAPERS, iso_paper
from wamplex.core.geometry.sheet import (
    Sheet,
    factor_needed,
    file_pixels,
    fit_to_sheet,
    picture_corner,
    sheet_with_factor,
)
from wamplex.core.geometry.size import Size
from wamplex.core.intake.read import read_picture
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.render.render import render, render_sheet

# ISO 216:2007, tables 1 and 2, in millimetres.
ISO_A = [(841, 1189), (594, 841), (420, 594), (297, 420), (210, 297), (148, 210), (105, 148)]
ISO_B = [(1000, 1414), (707, 1000), (500, 707), (353, 500), (250, 353), (176, 250), (125, 176)]
FILLINGS = ["mirrored", "stretched", "blurred", "plain"]


def test_papers_are_the_standards() -> None:
    assert [(iso_paper("A", n).short_mm, iso_paper("A", n).long_mm) for n in range(7)] == ISO_A
    assert [(iso_paper("B", n).short_mm, iso_paper("B", n).long_mm) for n in range(7)] == ISO_B
    ten_by_eight = next(p for p in PAPERS if p.name == "8 × 10 in")
    assert (ten_by_eight.short_mm, ten_by_eight.long_mm) == pytest.approx((203.2, 254.0))


def test_an_a4_sheet_at_300_ppi_has_the_printers_pixels() -> None:
    """2480 x 3508, the size that every print shop asks for; common practice."""
    size = fit_to_sheet(Size(620, 877, 1.0), Sheet(width_mm=210, height_mm=297))
    assert file_pixels(size, Sheet(width_mm=210, height_mm=297)) == (2480, 3508)


def test_factor_and_density_trade_off_on_a_sheet() -> None:
    """A 341 x 227 px crop on A2 with 12 mm margin: 570 mm at 300 ppi are 6732 px, 19.7 times 341."""
    sheet = Sheet(width_mm=594, height_mm=420, margin_mm=12)
    size = Size(341, 227, 4.0)
    assert factor_needed(size, sheet, 300) == pytest.approx(570 / 25.4 * 300 / 341)
    largest = fit_to_sheet(size, sheet)
    assert (largest.factor, round(largest.density_ppi)) == (8.0, 122)
    assert sheet_with_factor(size, sheet, 6.0).density_ppi == pytest.approx(6 * 341 / (570 / 25.4))
    with pytest.raises(SizeError, match="ppi"):
        sheet_with_factor(Size(20, 20, 4.0), Sheet(width_mm=1000, height_mm=1000), 0.5)


@pytest.fixture
def picture(photo: np.ndarray) -> Picture:
    return Picture(photo[:60, :80].astype(np.float32) / np.float32(255))


@pytest.mark.parametrize("place", ["fit", "extend"])
@pytest.mark.parametrize("filling", FILLINGS)
def test_the_picture_on_the_sheet_is_the_result(place: str, filling: str, picture: Picture) -> None:
    extension = "filled" if filling == "stretched" else filling
    sheet = Sheet.model_validate(
        {
            "width_mm": 30,
            "height_mm": 30,
            "place": place,
            "wrap_mm": 4,
            "wrap": filling,
            "extension": extension,
        }
    )
    recipe = Recipe(base=TrialSpec(upscaler="bicubic"), factor=3, density_ppi=203.2, sheet=sheet)
    size = recipe.size(80, 60)
    width, height = file_pixels(size, sheet)
    whole = render_sheet(picture, recipe, Window(0, 0, width, height))
    x, y = picture_corner(size, sheet)
    assert (width, height) == (240 + 64, 240 + 64)
    assert np.array_equal(whole[y : y + 180, x : x + 240], render(picture, recipe, Window(0, 0, 240, 180)))
    for window in (Window(0, 0, 50, 41), Window(17, 100, 260, 33), Window(200, 190, 104, 114)):
        part = whole[window.y : window.bottom, window.x : window.right]
        assert np.abs(render_sheet(picture, recipe, window) - part).max() < 1e-6


def test_a_mirrored_wrap_folds_at_the_edge(picture: Picture) -> None:
    sheet = Sheet(width_mm=80, height_mm=60, place="fill", wrap_mm=10)
    recipe = Recipe(base=TrialSpec(upscaler="nearest"), factor=1, density_ppi=25.4, sheet=sheet)
    whole = render_sheet(picture, recipe, Window(0, 0, 100, 80))
    assert np.array_equal(whole[10:70, :10], picture.pixels[:, 9::-1])
    assert np.array_equal(whole[70:, 10:90], picture.pixels[:49:-1])
    stretched = recipe.replace(sheet=sheet.replace(wrap="stretched"))
    assert np.array_equal(
        render_sheet(picture, stretched, Window(0, 30, 10, 1))[0], np.tile(picture.pixels[20, 0], (10, 1))
    )


def test_inpainting_goes_on_with_what_is_at_the_edge() -> None:
    halves = np.zeros((60, 80, 3), np.float32)
    halves[:30], halves[30:] = (0.8, 0.5, 0.2), (0.1, 0.3, 0.6)
    sheet = Sheet(width_mm=120, height_mm=60, place="extend", extension="filled")
    recipe = Recipe(base=TrialSpec(upscaler="bicubic"), factor=1, density_ppi=25.4, sheet=sheet)
    whole = render_sheet(Picture(halves), recipe, Window(0, 0, 120, 60))
    assert np.abs(whole[5, 5] - halves[0, 0]).max() < 0.05
    assert np.abs(whole[55, 115] - halves[59, 0]).max() < 0.05


def test_a_framed_picture_on_its_sheet_is_delivered(tmp_path: Path, photo: np.ndarray) -> None:
    path = tmp_path / "photo.png"
    Image.fromarray(photo).save(path)
    framing = Framing(turns=1, straighten_deg=2, crop=Crop(x=20, y=20, width=80, height=100))
    sheet = Sheet(width_mm=100, height_mm=120, margin_mm=10)
    size = fit_to_sheet(Size(80, 100, 2.0, 150), sheet)
    recipe = Recipe(
        base=TrialSpec(upscaler="mitchell"), factor=size.factor, density_ppi=150, framing=framing, sheet=sheet
    )
    done = deliver(read_picture(path), recipe, Delivery(depth=8))
    written = tifffile.imread(done.path)
    assert written.shape == (round(120 / 25.4 * 150), round(100 / 25.4 * 150), 3)
    assert (written[:50] == 255).all()
    x, y = picture_corner(size, sheet)
    made = render(read_picture(path), recipe, Window(0, 0, size.width_px, size.height_px))
    inside = written[y : y + size.height_px, x : x + size.width_px]
    assert np.array_equal(inside, np.rint(made * 255).astype(np.uint8))


def test_pages_cover_the_print_and_overlap(tmp_path: Path, photo: np.ndarray) -> None:
    """Laid over each other, pages give the whole; marks stand only where the next page lies on top."""
    path = tmp_path / "photo.png"
    Image.fromarray(photo).save(path)
    recipe = Recipe(base=TrialSpec(upscaler="bicubic"), factor=4, density_ppi=150)
    whole = tifffile.imread(deliver(read_picture(path), recipe, Delivery(depth=8)).path)
    divided = Delivery(depth=8, pages=Pages(width_mm=50, height_mm=40, overlap_mm=6))
    done = deliver(read_picture(path), recipe, divided)
    pages = divide_into_pages(600, 480, 150, divided.pages)
    assert [p.name for p in done.pages][:2] == ["photo-4x-row1-column1.tif", "photo-4x-row1-column2.tif"]
    assert len(done.pages) == len(pages) == 6
    laid = np.zeros_like(whole)
    for page, file in zip(pages, done.pages, strict=True):
        w = page.window
        laid[w.y : w.bottom, w.x : w.right] = tifffile.imread(file)
    assert np.array_equal(laid, whole)
    first = tifffile.imread(done.pages[0])
    join = pages[0].window.width - pages[0].overlap_px[0]
    assert (first[:20, join : join + 2].max(axis=2) == [255, 255]).all()
    assert (first[:20, join + 2 : join + 4] == 0).all()
    assert np.array_equal(first[40:150], whole[40:150, : first.shape[1]])


def test_too_many_pages_are_refused() -> None:
    with pytest.raises(SizeError, match="pages"):
        divide_into_pages(100_000, 100_000, 300, Pages(width_mm=105, height_mm=148))
