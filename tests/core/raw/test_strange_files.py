"""Raw files that are damaged, or say strange things: a sentence each."""

from __future__ import annotations

import struct
from pathlib import Path

import numpy as np
import pytest
import tifffile
from tests.cameras import chart, raw_file
from typer.testing import CliRunner

from wamplex.cli import app
from wamplex.core.base.errors import UnreadablePictureError
from wamplex.core.intake.probe import probe
from wamplex.core.intake.read import read_picture
from wamplex.core.raw.dng_tags import dng_tags


def with_tag(path: Path, tag: int, packed: bytes) -> Path:
    """The value of a tag of the first directory overwritten where it stands."""
    with tifffile.TiffFile(path) as file:
        place = file.pages[0].tags[tag].valueoffset
    body = bytearray(path.read_bytes())
    body[place : place + len(packed)] = packed
    path.write_bytes(bytes(body))
    return path


def test_an_unknown_kind_is_named_as_raw_and_refused(tmp_path: Path) -> None:
    path = tmp_path / "strange.raf"
    path.write_bytes(b"FUJIFILMCCD-RAW" + bytes(4000))
    with pytest.raises(UnreadablePictureError, match="is a raw file that cannot be read"):
        probe(path)


def test_an_absurd_size_is_refused_before_anything_is_decoded(tmp_path: Path) -> None:
    path = raw_file(tmp_path / "a.dng", chart())
    with_tag(path, 256, struct.pack("<H", 60000))
    with_tag(path, 257, struct.pack("<H", 60000))
    with pytest.raises(UnreadablePictureError):
        read_picture(path)


def test_a_white_below_black_leaves_no_mosaic(tmp_path: Path) -> None:
    path = with_tag(raw_file(tmp_path / "a.dng", chart()), 50717, struct.pack("<I", 100))
    try:
        picture = read_picture(path)
    except UnreadablePictureError:
        return
    assert picture.raw is not None
    assert picture.raw.mosaic is None
    assert np.isfinite(picture.pixels).all()


@pytest.mark.parametrize("tag", [50721, 50728, 50778])
def test_tags_of_nonsense_are_left_out(tmp_path: Path, tag: int) -> None:
    path = with_tag(raw_file(tmp_path / "a.dng", chart()), tag, b"\0" * 8)
    dng_tags(path)
    try:
        assert np.isfinite(read_picture(path).pixels).all()
    except UnreadablePictureError:
        return


def test_noise_of_nonsense_is_measured_instead(tmp_path: Path) -> None:
    path = raw_file(tmp_path / "a.dng", chart(), told=True)
    assert dng_tags(with_tag(path, 51041, struct.pack("<d", float("nan")))).noise is None


def test_the_command_line_takes_it_from_mosaic_to_tiff_and_dng(tmp_path: Path) -> None:
    path = raw_file(tmp_path / "a.dng", chart())
    words = [
        "enlarge",
        str(path),
        "--factor",
        "2",
        "--exposure",
        "0.5",
        "--light",
        "5200:4",
        "--cut-off",
        "rebuild",
    ]
    for suffix in ("tif", "dng"):
        out = tmp_path / f"made.{suffix}"
        result = CliRunner().invoke(app, [*words, "--out", str(out)])
        assert result.exit_code == 0, result.output
        assert (probe(out).width, probe(out).height) == (192, 128)
    assert "Tessera is suggested" in result.output


@pytest.mark.parametrize(
    ("option", "value", "said"),
    [
        ("--light", "warm", "Write it like 5200"),
        ("--light", "900", "kelvin"),
        ("--neutral", "5", "column, row"),
        ("--neutral", "900,900", "outside"),
        ("--demosaic", "magic", "--demosaic cannot be"),
        ("--exposure", "9", "--exposure cannot be"),
    ],
)
def test_options_that_cannot_be_are_refused_in_words(tmp_path: Path, option: str, value: str, said: str) -> None:
    path = raw_file(tmp_path / "a.dng", chart())
    result = CliRunner().invoke(app, ["enlarge", str(path), "--factor", "2", option, value])
    assert result.exit_code != 0
    assert said in " ".join(result.output.split())
    assert [found.name for found in tmp_path.iterdir()] == ["a.dng"]
