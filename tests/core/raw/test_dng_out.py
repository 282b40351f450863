"""Linear DNG: LibRaw reads the very numbers back that were meant."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pyexiv2
import pytest
import rawpy
import tifffile
from PIL import Image, ImageCms
from tests.cameras import CAMERA, chart, raw_file

from wamplex.core.base.errors import DeliveryError
from wamplex.core.deliver.deliver import deliver
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.intake.read import read_picture
from wamplex.core.model.development import Development
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.raw.mosaic_dng import MosaicTags, write_mosaic

NEAREST = TrialSpec(upscaler="nearest")


def delivered(source: Path, recipe: Recipe) -> Path:
    return deliver(read_picture(source), recipe, Delivery(format="dng", folder=source.parent)).path


def as_libraw_reads(path: Path) -> np.ndarray:
    """The numbers of the file, nothing done to them."""
    with rawpy.imread(str(path)) as raw:
        return raw.postprocess(
            output_color=rawpy.ColorSpace.raw,
            gamma=(1, 1),
            no_auto_bright=True,
            no_auto_scale=True,
            output_bps=16,
            user_wb=[1, 1, 1, 1],
            user_flip=0,
            adjust_maximum_thr=0.0,
        )


def test_a_raw_files_colours_are_those_the_camera_recorded(tmp_path: Path) -> None:
    source = raw_file(tmp_path / "a.dng", chart())
    picture = read_picture(source)
    assert picture.raw is not None
    made = as_libraw_reads(delivered(source, Recipe(base=NEAREST, factor=1)))
    recorded = picture.raw.developed / picture.raw.white / np.asarray(CAMERA.gains)
    assert np.abs(made / 65535 - np.minimum(recorded, 1)).max() < 2e-5


def test_developing_it_gives_the_picture_again(tmp_path: Path) -> None:
    """Matrix, neutral and levels are right when our own intake makes the same of both files."""
    source = raw_file(tmp_path / "a.dng", 0.8 * chart(), orientation=6)
    again = read_picture(delivered(source, Recipe(base=NEAREST, factor=1)))
    assert np.abs(again.pixels - read_picture(source).pixels).max() < 2e-3
    assert any("no Bayer" in notice for notice in again.notices)


def test_balance_and_exposure_go_along_as_tags(tmp_path: Path) -> None:
    source = raw_file(tmp_path / "a.dng", 0.2 * chart())
    development = Development(neutral=(1.8, 1.5), exposure_ev=1.5)
    path = delivered(source, Recipe(base=NEAREST, factor=1, development=development))
    with tifffile.TiffFile(path) as file:
        tags = file.pages[0].tags
        neutral = np.asarray(tags[50728].value).reshape(3, 2)
        exposure = np.asarray(tags[50730].value)
        assert neutral[:, 0] / neutral[:, 1] == pytest.approx([1 / 1.8, 1, 1 / 1.5], abs=1e-5)
        assert exposure[0] / exposure[1] == pytest.approx(1.5)
    plain = as_libraw_reads(delivered(source, Recipe(base=NEAREST, factor=1)))
    assert np.abs(as_libraw_reads(path).astype(int) - plain).max() <= 3  # the light itself is as it was


def test_lights_that_a_print_would_cut_off_are_kept(tmp_path: Path) -> None:
    """Red may go on where green is cut off: in camera colours all have the same white."""
    source = raw_file(tmp_path / "a.dng", np.full((32, 48, 3), 1.0))
    made = as_libraw_reads(delivered(source, Recipe(base=NEAREST, factor=1)))
    levels = made[8:-8, 8:-8].mean(axis=(0, 1)) / 65535
    assert levels == pytest.approx([1 / CAMERA.gains[0], 1.0, 1 / CAMERA.gains[2]], abs=1e-3)


def test_tessera_is_enlarged_into_it(tmp_path: Path) -> None:
    source = raw_file(tmp_path / "a.dng", chart())
    path = delivered(source, Recipe(base=TrialSpec(upscaler="tessera"), factor=2))
    assert as_libraw_reads(path).shape == (128, 192, 3)


def test_another_picture_keeps_its_own_primaries(tmp_path: Path) -> None:
    """Linear light by the curve of IEC 61966-2-1; 0.1 of an 8-bit level is what a way through Lab costs."""
    pixels = np.random.default_rng(1).integers(0, 256, (24, 32, 3), np.uint8)
    source = tmp_path / "a.png"
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    Image.fromarray(pixels).save(source, icc_profile=profile)
    path = delivered(source, Recipe(base=NEAREST, factor=1))
    encoded = pixels / 255
    linear = np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)
    assert np.abs(as_libraw_reads(path) / 65535 - linear).max() < 4e-4
    again = read_picture(path)
    assert again.raw is not None
    assert again.raw.gains == pytest.approx((1, 1, 1))


def test_there_is_a_preview_in_it(tmp_path: Path) -> None:
    path = delivered(raw_file(tmp_path / "a.dng", 0.5 * chart()), Recipe(base=NEAREST, factor=4))
    with tifffile.TiffFile(path) as file:
        preview = file.pages[0].asarray()
    assert preview.dtype == np.uint8
    assert 100 < max(preview.shape) <= 512
    assert 30 < preview.mean() < 220


def test_around_the_picture_there_is_nothing(tmp_path: Path) -> None:
    source = raw_file(tmp_path / "a.dng", chart())
    sheet = Sheet(name="A5", width_mm=210, height_mm=148, margin_mm=10)
    with pytest.raises(DeliveryError, match="cannot hold a sheet"):
        delivered(source, Recipe(base=NEAREST, factor=1, sheet=sheet))
    assert [path.name for path in tmp_path.iterdir()] == ["a.dng"]


@pytest.mark.parametrize("kind", ["tiff", "jpeg", "png", "dng"])
def test_what_the_camera_noted_goes_along(tmp_path: Path, kind: str) -> None:
    """Read by exiv2."""
    source = tmp_path / "noted.dng"
    gains = CAMERA.gains
    tags = MosaicTags(CAMERA.from_xyz, (1 / gains[0], 1, 1 / gains[2]), iso=1600, exposure_s=1 / 125)
    write_mosaic(source, CAMERA.levels(chart(), seed=1), tags)
    delivery = Delivery(format=kind, folder=tmp_path)  # type: ignore[arg-type]
    path = deliver(read_picture(source), Recipe(base=NEAREST, factor=1), delivery).path
    with pyexiv2.Image(str(path)) as image:
        said = image.read_exif()
    assert said["Exif.Photo.ISOSpeedRatings"] == "1600"
    assert said["Exif.Photo.ExposureTime"] == "1/125"
    assert "Simulated" in said["Exif.Image.Model"]
