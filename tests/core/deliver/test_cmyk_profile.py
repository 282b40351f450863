"""Files in a printer's inks, against LittleCMS through Pillow."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pikepdf
import pytest
import tifffile
from PIL import Image, ImageCms

from wamplex.core.base.errors import DeliveryError
from wamplex.core.base.progress import Progress
from wamplex.core.colour.icc import SRGB, make_profile
from wamplex.core.deliver.deliver import deliver
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.intake.read import read_picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec

RECIPE = Recipe(base=TrialSpec(upscaler="nearest"), factor=1)  # every pixel is one of the source's


def made(source: Path, press: Path, **delivery: object) -> Path:
    folder = source.parent / "made"
    wanted = Delivery.model_validate({"depth": 8, "printer": press, "folder": folder, **delivery})
    return deliver(read_picture(source), RECIPE, wanted, Progress()).path


@pytest.mark.parametrize(("intent", "number"), [("relative", 1), ("perceptual", 0)])
def test_inks_are_those_of_littlecms(photo_file: Path, press: Path, intent: str, number: int) -> None:
    path = made(photo_file, press, intent=intent)
    with tifffile.TiffFile(path) as tiff:
        page = tiff.pages[0]
        assert page.photometric.name == "SEPARATED"
        assert page.iccprofile == press.read_bytes()
        inks = page.asarray().astype(int)
    assert inks.shape == (120, 150, 4)
    shown = Image.open(photo_file)
    srgb = ImageCms.ImageCmsProfile(io.BytesIO(make_profile(SRGB)))
    flags = ImageCms.Flags.BLACKPOINTCOMPENSATION | ImageCms.Flags.NOOPTIMIZE
    meant = ImageCms.profileToProfile(
        shown, srgb, ImageCms.getOpenProfile(str(press)), number, outputMode="CMYK", flags=flags
    )
    apart = np.abs(inks - np.asarray(meant).astype(int))
    # Both round the colours between the profiles, each in its own way, which tells where a table is steep.
    assert np.quantile(apart, 0.995) <= 1
    assert apart.max() <= 6


def test_a_pdf_in_inks_has_four_of_them(photo_file: Path, press: Path) -> None:
    with pikepdf.open(made(photo_file, press, format="pdf", depth=16)) as pdf:
        (image,) = pdf.pages[0].get_images().values()
        assert int(image.ColorSpace[1].N) == 4
        assert len(image.read_bytes()) == 150 * 120 * 4 * 2


def test_transparency_lies_on_white_paper(tmp_path: Path, press: Path) -> None:
    clear = tmp_path / "clear.png"
    Image.new("RGBA", (12, 8), (0, 0, 0, 0)).save(clear)
    assert tifffile.imread(made(clear, press)).max() <= 1


def test_what_is_no_printers_profile_is_refused_and_nothing_written(photo_file: Path, press: Path) -> None:
    screen = photo_file.with_name("screen.icc")
    screen.write_bytes(make_profile(SRGB))
    cut = photo_file.with_name("cut.icc")
    cut.write_bytes(press.read_bytes()[:3000])
    for profile, words in ((screen, "four inks"), (cut, "four inks"), (Path("/none.icc"), "file not found")):
        with pytest.raises(DeliveryError, match=words):
            made(photo_file, profile)
    with pytest.raises(DeliveryError, match="TIFF or PDF"):
        made(photo_file, press, format="png")
    assert not (photo_file.parent / "made").exists()
