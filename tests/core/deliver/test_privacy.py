"""What a file tells of place, camera and owner, read by general libraries: Pillow, pyexiv2 and exiv2 inside it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pyexiv2
import pytest
import tifffile
from PIL import Image

from wamplex.core.base.progress import Progress
from wamplex.core.deliver.deliver import Delivered, deliver
from wamplex.core.deliver.request.delivery import Delivery, MetadataChoice
from wamplex.core.intake.read import read_picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec

FORMATS = ("tiff", "png", "jpeg", "webp")
PUBLIC = {
    "Exif.Image.Make": "Lanternworks",
    "Exif.Photo.LensModel": "Puppet lens 50 mm",
    "Exif.Photo.ISOSpeedRatings": "200",
}
RIGHTS = {
    "Exif.Image.Artist": "A. Carver",
    "Exif.Image.Copyright": "(c) A. Carver",
    "Exif.Image.ImageDescription": "Two puppets",
    "Iptc.Application2.Byline": ["A. Carver"],
    "Iptc.Application2.Caption": "Two puppets",
    "Xmp.dc.rights": {'lang="x-default"': "(c) A. Carver"},
}
PRIVATE = {
    "Exif.GPSInfo.GPSLatitudeRef": "N",
    "Exif.GPSInfo.GPSLatitude": "52/1 31/1 0/1",
    "Exif.Photo.BodySerialNumber": "B-12345",
    "Exif.Photo.LensSerialNumber": "L-54321",
    "Exif.Photo.CameraOwnerName": "Mr Private",
    "Exif.Photo.UserComment": "charset=Ascii at home",
    "Iptc.Application2.City": "Hollowmere",
    "Xmp.iptc.Location": "Hollowmere",
    "Xmp.exif.GPSLatitude": "52,31.0N",
    "Xmp.aux.SerialNumber": "B-12345",
}


@pytest.fixture
def source(tmp_path: Path) -> Path:
    path = tmp_path / "source.jpg"
    Image.fromarray(np.random.default_rng(1).integers(0, 255, (30, 40, 3), np.uint8)).save(path, quality=95)
    with pyexiv2.Image(str(path)) as image:
        for name, value in (PUBLIC | RIGHTS | PRIVATE).items():
            getattr(image, f"modify_{name.partition('.')[0].lower()}")({name: value})
    return path


def delivered(source: Path, file_format: str, choice: MetadataChoice) -> Delivered:
    delivery = Delivery.model_validate({"format": file_format, "depth": 8, "metadata": choice})
    return deliver(read_picture(source), Recipe(base=TrialSpec(upscaler="bicubic"), factor=2), delivery, Progress())


def metadata_of(path: Path) -> dict[str, object]:
    with pyexiv2.Image(str(path)) as image:
        return {**image.read_exif(), **image.read_iptc(), **image.read_xmp()}


@pytest.mark.parametrize("file_format", FORMATS)
def test_by_default_place_serial_numbers_and_owner_stay_behind_and_are_named(source: Path, file_format: str) -> None:
    done = delivered(source, file_format, "safe")
    metadata = metadata_of(done.path)
    assert not PRIVATE.keys() & metadata.keys()
    assert not [name for name in metadata if "GPS" in name or "Serial" in name]
    assert {name: metadata.get(name) for name in PUBLIC} == PUBLIC
    expected = {name: value for name, value in RIGHTS.items() if file_format in ("tiff", "jpeg") or "Iptc" not in name}
    assert {name: metadata.get(name) for name in expected} == expected
    assert done.text.endswith("without comments, owner's name, place and serial numbers")
    assert b"Hollowmere" not in done.path.read_bytes()


@pytest.mark.parametrize("file_format", FORMATS)
def test_only_rights_and_description(source: Path, file_format: str) -> None:
    done = delivered(source, file_format, "rights")
    metadata = metadata_of(done.path)
    assert not (PRIVATE | PUBLIC).keys() & metadata.keys()
    assert metadata["Exif.Image.Copyright"] == RIGHTS["Exif.Image.Copyright"]
    assert metadata["Xmp.dc.rights"] == RIGHTS["Xmp.dc.rights"]
    assert "all but rights and description" in done.text


@pytest.mark.parametrize("file_format", FORMATS)
def test_nothing(source: Path, file_format: str) -> None:
    metadata = metadata_of(delivered(source, file_format, "none").path)
    assert not (PRIVATE | PUBLIC | RIGHTS).keys() & metadata.keys()


@pytest.mark.parametrize("file_format", ["tiff", "jpeg"])
def test_everything(source: Path, file_format: str) -> None:
    done = delivered(source, file_format, "all")
    metadata = metadata_of(done.path)
    everything = PUBLIC | RIGHTS | PRIVATE
    assert {name: metadata.get(name) for name in everything} == everything
    assert "without" not in done.text


def test_iptc_in_tiff_is_bare_records(source: Path) -> None:
    """As libraries that read tag 33723 expect: it begins with the mark of a dataset (IPTC-IIM 4.2)."""
    with tifffile.TiffFile(delivered(source, "tiff", "all").path) as file:
        records = bytes(file.pages[0].tags[33723].value)
    assert records[0] == 0x1C
    assert records[1] in (1, 2)


@pytest.mark.parametrize("file_format", FORMATS)
def test_no_file_tells_where_anything_lies(source: Path, file_format: str) -> None:
    data = delivered(source, file_format, "all").path.read_bytes()
    assert str(source.parent).encode() not in data


def test_older_deliveries_are_read() -> None:
    assert Delivery.model_validate({"keep_metadata": True}).metadata == "all"
    assert Delivery.model_validate_json('{"keep_metadata": false}').metadata == "none"
    assert Delivery().metadata == "safe"


TYPES = "http://cv.iptc.org/newscodes/digitalsourcetype/"


def stated_type(path: Path) -> object:
    with pyexiv2.Image(str(path)) as image:
        return image.read_xmp().get("Xmp.iptcExt.DigitalSourceType")


@pytest.mark.parametrize("file_format", FORMATS)
@pytest.mark.parametrize(
    ("upscaler", "source_type", "expected"),
    [
        ("bicubic", None, None),
        ("bicubic", "digitalCapture", "digitalCapture"),
        ("vellum", None, "algorithmicallyEnhanced"),
        ("vellum", "digitalCapture", "algorithmicallyEnhanced"),
        ("vellum", "trainedAlgorithmicMedia", "trainedAlgorithmicMedia"),
        ("thicket", "digitalCapture", "compositeWithTrainedAlgorithmicMedia"),
    ],
)
def test_files_state_how_pixels_were_made(
    source: Path, file_format: str, upscaler: str, source_type: str | None, expected: str | None
) -> None:
    if source_type is not None:
        with pyexiv2.Image(str(source)) as image:
            image.modify_xmp({"Xmp.iptcExt.DigitalSourceType": f"{TYPES}{source_type}"})
    recipe = Recipe(base=TrialSpec(upscaler=upscaler), factor=2)
    delivery = Delivery.model_validate({"format": file_format, "depth": 8})
    done = deliver(read_picture(source), recipe, delivery, Progress())
    assert stated_type(done.path) == (None if expected is None else f"{TYPES}{expected}")
    silent = deliver(read_picture(source), recipe, delivery.replace(source_type=False, metadata="none"), Progress())
    assert stated_type(silent.path) is None
