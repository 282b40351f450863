"""PDF files are read by qpdf (through pikepdf), which knows the standard: ISO 32000-1."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pikepdf
import pytest
from PIL import Image

from wamplex.core.base.errors import DeliveryError
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.icc import SRGB, make_profile
from wamplex.core.deliver.deliver import deliver
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.verification import verify as verify_module
from wamplex.core.deliver.writers.pdf import read_page
from wamplex.core.geometry.pages import Pages
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.intake.probe import probe
from wamplex.core.intake.read import read_picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.render.render import render
from wamplex.core.workflow.recipe_transfer.transfer import fit_recipe_size

RECIPE = Recipe(base=TrialSpec(upscaler="bicubic"), factor=2)


def made(source: Path, recipe: Recipe = RECIPE, **delivery: object) -> Path:
    wanted = Delivery.model_validate({"format": "pdf", **delivery})
    return deliver(read_picture(source), recipe, wanted, Progress()).path


def samples(path: Path) -> np.ndarray:
    """The picture as qpdf unpacks it, filters and predictor undone."""
    with pikepdf.open(path) as pdf:
        (image,) = pdf.pages[0].get_images().values()
        depth = int(image.BitsPerComponent)
        flat = np.frombuffer(image.read_bytes(), ">u2" if depth == 16 else np.uint8)
        return flat.reshape(int(image.Height), int(image.Width), -1)


@pytest.mark.parametrize("depth", [8, 16])
def test_every_sample_is_that_of_the_result(photo_file: Path, depth: int) -> None:
    path = made(photo_file, depth=depth)
    meant = render(read_picture(photo_file), RECIPE, Window(0, 0, 300, 240)) * (2**depth - 1)
    np.testing.assert_array_equal(samples(path), np.rint(meant))


def test_the_page_is_the_print_and_nothing_is_wrong_with_it(photo_file: Path) -> None:
    path = made(photo_file, RECIPE.replace(density_ppi=150))
    with pikepdf.open(path) as pdf:
        assert pdf.check_pdf_syntax() == []
        assert pdf.pdf_version == "1.7"
        page = pdf.pages[0]
        # 300 x 240 px at 150 ppi are 2 x 1.6 inches of 72 points.
        assert [float(n) for n in page.MediaBox] == pytest.approx([0, 0, 144, 115.2], abs=1e-4)
        assert [float(n) for n in page.TrimBox] == pytest.approx([0, 0, 144, 115.2], abs=1e-4)
        (image,) = page.get_images().values()
        assert bytes(image.ColorSpace[1].read_bytes()) == make_profile(SRGB)
        assert b"urn:wamplex:recipe" in pdf.Root.Metadata.read_bytes()


def test_bleed_lies_outside_of_the_trim(photo_file: Path) -> None:
    sheet = Sheet(width_mm=50.8, height_mm=25.4, place="fill", bleed_mm=2.54)
    wanted = RECIPE.replace(sheet=sheet, density_ppi=100)
    path = made(photo_file, fit_recipe_size(wanted, RECIPE, probe(photo_file)))
    with pikepdf.open(path) as pdf:
        page = pdf.pages[0]
        # 2 x 1 inches with 0.1 inch around them.
        assert [float(n) for n in page.BleedBox] == pytest.approx([0, 0, 158.4, 86.4], abs=0.8)
        trim = [float(n) for n in page.TrimBox]
        assert trim[:2] == pytest.approx([7.2, 7.2], abs=0.01)
        assert trim[2] - trim[0] == pytest.approx(144, abs=0.8)


def test_prints_over_five_metres_tell_their_unit(photo_file: Path) -> None:
    path = made(photo_file, RECIPE.replace(factor=8, density_ppi=10), depth=8)
    with pikepdf.open(path) as pdf:
        page = pdf.pages[0]
        assert "/UserUnit" not in page  # 1200 px at 10 ppi are 3.05 m
    wide = photo_file.with_name("wide.png")
    Image.new("RGB", (1500, 4)).save(wide)
    path = made(wide, RECIPE.replace(factor=2, density_ppi=10), depth=8)
    with pikepdf.open(path) as pdf:
        page = pdf.pages[0]
        assert float(page.UserUnit) * float(page.MediaBox[2]) == pytest.approx(3000 / 10 * 72)
        assert float(page.MediaBox[2]) <= 14400


def test_grey_stays_grey_and_transparency_lies_on_white(tmp_path: Path) -> None:
    grey, clear = tmp_path / "grey.png", tmp_path / "clear.png"
    Image.new("L", (20, 10), 80).save(grey)
    Image.new("RGBA", (20, 10), (0, 0, 0, 0)).save(clear)
    assert samples(made(grey, depth=8)).shape == (20, 40, 1)
    np.testing.assert_array_equal(samples(made(clear, depth=8)), 255)


def test_divided_prints_are_pages_of_their_own(photo_file: Path) -> None:
    sheet = Sheet(width_mm=300, height_mm=200, place="fill", bleed_mm=3)
    recipe = fit_recipe_size(RECIPE.replace(sheet=sheet, density_ppi=72), RECIPE, probe(photo_file))
    wanted = Delivery(format="pdf", depth=8, pages=Pages(width_mm=210, height_mm=297))
    done = deliver(read_picture(photo_file), recipe, wanted, Progress())
    assert len(done.pages) > 1
    for path in done.pages:
        with pikepdf.open(path) as pdf:
            assert list(pdf.pages[0].TrimBox) == list(pdf.pages[0].MediaBox)


@pytest.mark.parametrize("share", [0.3, 0.9, 0.999])
def test_a_file_that_is_damaged_on_the_disk_is_not_kept(
    photo_file: Path, monkeypatch: pytest.MonkeyPatch, share: float
) -> None:
    read = read_page

    def damaged(path: Path) -> object:
        data = bytearray(path.read_bytes())
        data[int(len(data) * share)] ^= 0xFF
        path.write_bytes(data)
        return read(path)

    monkeypatch.setattr(verify_module, "read_page", damaged)
    with pytest.raises(DeliveryError):
        made(photo_file, depth=8, profile="srgb")
    assert [path.name for path in photo_file.parent.iterdir()] == ["photo.png"]
