"""The writers by themselves, on files at the edges of their formats; readers of others check them."""

from __future__ import annotations

import struct
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image

from wamplex.core.deliver.metadata.exif import EXIF_POINTER, GPS_POINTER, parse_exif
from wamplex.core.deliver.request.file_description import FileDescription
from wamplex.core.deliver.request.samples import Samples
from wamplex.core.deliver.writers import tiff as tiff_module
from wamplex.core.deliver.writers.libvips import write_jpeg, write_png
from wamplex.core.deliver.writers.tiff import write_tiff
from wamplex.core.intake.probe import probe
from wamplex.core.model.picture import Metadata

XMP = b'<?xpacket begin=""?><x:xmpmeta xmlns:x="adobe:ns:meta/">Hollowmere</x:xmpmeta>'


def about(samples: Samples, **changes: object) -> FileDescription:
    height, width, channels = samples.shape
    values: dict[str, object] = {
        "width": width,
        "height": height,
        "channels": channels,
        "alpha": channels in (2, 4),
        "depth": samples.itemsize * 8,
        "density_ppi": 300.0,
        "profile": None,
        "metadata": Metadata(),
        "compression": "deflate",
        "quality": 92,
    }
    return FileDescription(**(values | changes))  # type: ignore[arg-type]


def random_samples(height: int, width: int, channels: int, depth: int) -> Samples:
    random = np.random.default_rng(height + width)
    values = random.integers(0, 2**depth, (height, width, channels), dtype=np.uint16)
    return values if depth == 16 else values.astype(np.uint8)


def bands(samples: Samples, rows: int) -> Iterator[Samples]:
    for start in range(0, samples.shape[0], rows):
        yield samples[start : start + rows]


def exif_block(order: str) -> bytes:
    """An EXIF block made by hand: a maker, an exposure time of 1/60 s, and a GPS latitude reference."""
    first = struct.pack(order + "H", 3)
    first += struct.pack(order + "HHII", 271, 2, 8, 50)
    first += struct.pack(order + "HHII", EXIF_POINTER, 4, 1, 58)
    first += struct.pack(order + "HHII", GPS_POINTER, 4, 1, 84)
    first += struct.pack(order + "I", 0)
    exif = struct.pack(order + "H", 1) + struct.pack(order + "HHII", 33434, 5, 1, 76) + struct.pack(order + "I", 0)
    gps = struct.pack(order + "H", 1) + struct.pack(order + "HHI", 1, 2, 2) + b"N\0\0\0" + struct.pack(order + "I", 0)
    head = (b"II*\0" if order == "<" else b"MM\0*") + struct.pack(order + "I", 8)
    return b"Exif\0\0" + head + first + b"Puppets\0" + exif + struct.pack(order + "II", 1, 60) + gps


@pytest.mark.parametrize("channels", [1, 2, 3, 4])
@pytest.mark.parametrize("depth", [8, 16])
@pytest.mark.parametrize("compression", ["deflate", "none"])
def test_tiff_holds_every_sample(tmp_path: Path, channels: int, depth: int, compression: str) -> None:
    samples = random_samples(301, 211, channels, depth)
    write_tiff(tmp_path / "a.tif", bands(samples, 37), about(samples, compression=compression))
    assert np.array_equal(tifffile.imread(tmp_path / "a.tif").reshape(samples.shape), samples)
    found = probe(tmp_path / "a.tif")
    assert (found.width, found.height, found.depth, found.alpha) == (211, 301, depth, channels in (2, 4))


@pytest.mark.parametrize("channels", [1, 2, 3, 4])
@pytest.mark.parametrize("depth", [8, 16])
def test_png_holds_every_sample(tmp_path: Path, channels: int, depth: int) -> None:
    import pyvips

    samples = random_samples(101, 97, channels, depth)
    write_png(tmp_path / "a.png", bands(samples, 17), about(samples))
    again = pyvips.Image.new_from_file(str(tmp_path / "a.png")).numpy().reshape(samples.shape)
    assert np.array_equal(again, samples)


@pytest.mark.parametrize(("width", "height"), [(1, 1), (1, 999), (40_000, 2)])
@pytest.mark.parametrize(("write", "name"), [(write_tiff, "a.tif"), (write_png, "a.png"), (write_jpeg, "a.jpg")])
def test_extreme_shapes_are_written(
    tmp_path: Path, width: int, height: int, write: Callable[..., None], name: str
) -> None:
    samples = random_samples(height, width, 3, 8)
    write(tmp_path / name, bands(samples, 256), about(samples))
    with Image.open(tmp_path / name) as image:
        assert image.size == (width, height)
        image.load()


@pytest.mark.parametrize("order", ["<", ">"])
@pytest.mark.parametrize("big", [False, True])
def test_exif_goes_into_tiff_from_either_byte_order(
    tmp_path: Path, order: str, big: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    if big:
        monkeypatch.setattr(tiff_module, "_CLASSIC_BYTES", 10)
    samples = random_samples(20, 30, 3, 16)
    metadata = Metadata(exif=exif_block(order), xmp=XMP)
    write_tiff(tmp_path / "a.tif", bands(samples, 20), about(samples, metadata=metadata))
    with tifffile.TiffFile(tmp_path / "a.tif") as tiff:
        assert tiff.is_bigtiff is big
        tags = tiff.pages[0].tags
        assert tags[271].value == "Puppets"
        assert tags[EXIF_POINTER].value["ExposureTime"] == (1, 60)
        assert tags[GPS_POINTER].value["GPSLatitudeRef"] == "N"
        assert bytes(tags[700].value) == XMP
        assert [t.code for t in tags] == sorted(t.code for t in tags)
        assert np.array_equal(tiff.asarray(), samples)
    assert probe(tmp_path / "a.tif").width == 30


@pytest.mark.parametrize("length", range(0, 110, 3))
def test_cut_exif_is_left_out_without_a_crash(length: int) -> None:
    fields = parse_exif(exif_block("<")[:length])
    assert all(entry.data for entry in fields.first + fields.exif + fields.gps)


@pytest.mark.parametrize(("write", "name"), [(write_png, "a.png"), (write_jpeg, "a.jpg")])
def test_xmp_survives(tmp_path: Path, write: Callable[..., None], name: str) -> None:
    samples = random_samples(20, 30, 3, 8)
    write(tmp_path / name, bands(samples, 7), about(samples, metadata=Metadata(xmp=XMP)))
    with Image.open(tmp_path / name) as image:
        assert b"Hollowmere" in str(image.info.get("xmp", image.info)).encode()


def test_jpeg_quality_is_the_one_asked_for(tmp_path: Path) -> None:
    """The luminance table of ITU-T T.81 annex K scaled for 50 is the table itself: its first value is 16."""
    samples = random_samples(64, 64, 3, 8)
    write_jpeg(tmp_path / "a.jpg", bands(samples, 64), about(samples, quality=50))
    with Image.open(tmp_path / "a.jpg") as image:
        assert image.quantization[0][0] == 16


@pytest.mark.parametrize("write", [write_tiff, write_png, write_jpeg])
def test_an_error_in_the_bands_comes_out_unchanged(tmp_path: Path, write: Callable[..., None]) -> None:
    samples = random_samples(64, 64, 3, 8)

    def failing() -> Iterator[Samples]:
        yield samples[:10]
        raise KeyError("the lantern went out")

    with pytest.raises(KeyError, match="lantern"):
        write(tmp_path / "a", failing(), about(samples))
