"""Reading: formats, depth, orientation, profiles; and files that are not what they say."""

from __future__ import annotations

import contextlib
import os
import socket
from pathlib import Path

import numpy as np
import pytest
import tifffile
from numpy.typing import NDArray
from PIL import Image

from wamplex.core.base.errors import SourceChangedError, UnreadablePictureError
from wamplex.core.colour.icc import ADOBE_RGB, make_profile, profile_name
from wamplex.core.intake.probe import open_image_file, probe
from wamplex.core.intake.read import read_picture, read_small
from wamplex.core.model.opened_source import open_source


@pytest.mark.parametrize("suffix", ["png", "tif", "webp"])
def test_lossless_8_bit_pixels_come_in_unchanged(tmp_path: Path, photo: NDArray[np.uint8], suffix: str) -> None:
    path = tmp_path / f"a.{suffix}"
    Image.fromarray(photo).save(path, **({"lossless": True} if suffix == "webp" else {}))
    assert np.array_equal(np.rint(read_picture(path).pixels * 255), photo)


@pytest.mark.parametrize("shape", [(30, 40), (30, 40, 3), (30, 40, 4)])
def test_16_bit_tiff_keeps_all_its_steps(tmp_path: Path, shape: tuple[int, ...]) -> None:
    values = np.random.default_rng(1).integers(0, 65536, shape, dtype=np.uint16)
    path = tmp_path / "a.tif"
    kind = "minisblack" if len(shape) == 2 else "rgb"
    tifffile.imwrite(path, values, photometric=kind, extrasamples=["unassalpha"] if shape[-1] == 4 else None)
    picture = read_picture(path)
    assert picture.depth == 16
    got = picture.pixels if picture.alpha is None else np.dstack([picture.pixels, picture.alpha])
    assert np.array_equal(np.rint(got * 65535).reshape(shape), values)


# Exif 2.32 (CIPA DC-008), 4.6.4: what each orientation does to the stored rows and columns.
_UPRIGHT = {
    1: lambda p: p,
    2: lambda p: p[:, ::-1],
    3: lambda p: p[::-1, ::-1],
    4: lambda p: p[::-1],
    5: lambda p: p.transpose(1, 0, 2),
    6: lambda p: np.rot90(p, -1),
    7: lambda p: p[::-1, ::-1].transpose(1, 0, 2),
    8: lambda p: np.rot90(p, 1),
}


@pytest.mark.parametrize("orientation", range(1, 9))
def test_orientation_is_honoured(tmp_path: Path, photo: NDArray[np.uint8], orientation: int) -> None:
    path = tmp_path / "a.png"
    exif = Image.Exif()
    exif[274] = orientation
    Image.fromarray(photo).save(path, exif=exif)
    upright = _UPRIGHT[orientation](photo)
    picture = read_picture(path)
    assert np.array_equal(np.rint(picture.pixels * 255), upright)
    found = probe(path)
    assert (found.height, found.width) == upright.shape[:2]


@pytest.mark.parametrize("orientation", [3, 6, 8])
def test_large_turned_pictures_are_read_too(tmp_path: Path, orientation: int) -> None:
    """Larger than any buffer of a decoder that works from top to bottom."""
    path = tmp_path / "a.jpg"
    exif = Image.Exif()
    exif[274] = orientation
    Image.linear_gradient("L").resize((2400, 1800)).save(path, exif=exif)
    picture = read_picture(path)
    assert (picture.width, picture.height) == ((2400, 1800) if orientation == 3 else (1800, 2400))
    brightest = {3: picture.pixels[0], 6: picture.pixels[:, 0], 8: picture.pixels[:, -1]}[orientation]
    assert brightest.mean() > 0.95


def test_cmyk_is_converted_with_a_notice(tmp_path: Path, photo: NDArray[np.uint8]) -> None:
    path = tmp_path / "a.jpg"
    Image.fromarray(photo).convert("CMYK").save(path, quality=95)
    picture = read_picture(path)
    assert picture.pixels.shape == (*photo.shape[:2], 3)
    assert "CMYK" in picture.notices[0]


def test_density_is_read_in_all_units(tmp_path: Path, photo: NDArray[np.uint8]) -> None:
    for suffix in ("jpg", "png", "tif"):
        path = tmp_path / f"a.{suffix}"
        Image.fromarray(photo).save(path, dpi=(240, 240))
        assert probe(path).density_ppi == pytest.approx(240, abs=0.02)


def test_the_contents_decide_not_the_suffix(tmp_path: Path, photo: NDArray[np.uint8]) -> None:
    path = tmp_path / "really-a-png.jpg"
    Image.fromarray(photo).save(path, format="PNG")
    assert probe(path).kind == "PNG"
    assert read_small(path, 64)[0].shape[2] == 3


def test_names_that_look_like_options_are_read(tmp_path: Path, photo: NDArray[np.uint8]) -> None:
    path = tmp_path / "a[page=9].png"
    Image.fromarray(photo).save(path)
    assert read_picture(path).width == photo.shape[1]
    assert read_small(path, 64)[0].shape[2] == 3


def _bad_files(folder: Path, photo: NDArray[np.uint8]) -> dict[str, bytes]:
    image = Image.fromarray(photo)
    for suffix in ("jpg", "png", "tif", "webp"):
        image.save(folder / f"good.{suffix}")
    bodies = {f"cut.{s}": (folder / f"good.{s}").read_bytes() for s in ("jpg", "png", "tif", "webp")}
    cut = {name: body[: len(body) // 2] for name, body in bodies.items()}
    huge = bytearray((folder / "good.png").read_bytes())
    huge[16:24] = (2_000_000).to_bytes(4, "big") * 2
    return cut | {"empty.jpg": b"", "text.png": b"not a picture at all", "huge.png": bytes(huge)}


def test_bad_files_give_a_sentence_and_nothing_else(tmp_path: Path, photo: NDArray[np.uint8]) -> None:
    for name, body in _bad_files(tmp_path, photo).items():
        path = tmp_path / name
        path.write_bytes(body)
        with pytest.raises(UnreadablePictureError) as caught:
            read_picture(path)
        assert str(caught.value).startswith(name.split(".")[0])
        assert str(caught.value).endswith(".")
        with pytest.raises(UnreadablePictureError):
            read_small(path, 64)
    for missing in (tmp_path / "gone.jpg", tmp_path):
        with pytest.raises(UnreadablePictureError):
            probe(missing)


@pytest.mark.slow
def test_mutated_files_never_crash(tmp_path: Path, photo: NDArray[np.uint8]) -> None:
    """A small share of the mutations that the fuzzing benchmark makes."""
    random = np.random.default_rng(7)
    image = Image.fromarray(photo[:40, :50])
    for suffix in ("jpg", "png", "tif", "webp"):
        good = tmp_path / f"good.{suffix}"
        image.save(good)
        body = np.frombuffer(good.read_bytes(), np.uint8)
        for i in range(60):
            changed = body.copy()
            changed[random.integers(0, len(body), 1 + i % 9)] = random.integers(0, 256)
            path = tmp_path / f"mutated.{suffix}"
            path.write_bytes(changed.tobytes())
            with contextlib.suppress(UnreadablePictureError):
                assert read_picture(path).width > 0


def raw_like(path: Path, photometric: int, inside: bool) -> None:
    """A TIFF whose mosaic lies behind a thumbnail, as in most raw files, or in the first page."""
    thumbnail = np.zeros((16, 24, 3), np.uint8)
    mosaic = np.zeros((64, 96, 3) if photometric == 34892 else (64, 96), np.uint16)
    with tifffile.TiffWriter(path) as file:
        if inside:
            file.write(thumbnail, photometric="rgb", subifds=1, metadata=None)
        file.write(mosaic, photometric=photometric, metadata=None)


def kind_or_refusal(path: Path) -> str:
    try:
        return probe(path).kind
    except UnreadablePictureError as refused:
        return "refused as raw" if f"{path.name} is a raw file" in str(refused) else str(refused)


# TIFF/EP (ISO 12234-2): 32803 is a colour filter array; DNG 1.4: 34892 is linear raw.
@pytest.mark.parametrize("photometric", [32803, 34892])
@pytest.mark.parametrize("inside", [True, False])
def test_raw_files_are_not_taken_for_their_thumbnail(tmp_path: Path, photometric: int, inside: bool) -> None:
    path = tmp_path / "DSC_1.NEF"
    raw_like(path, photometric, inside)
    assert kind_or_refusal(path) in ("raw", "refused as raw")  # LibRaw knows no such camera


@pytest.mark.parametrize(
    "start",
    [
        b"FUJIFILMCCD-RAW 0201",
        b"IIU\0\x18\0\0\0",
        b"IIRO\x08\0\0\0",
        b"\0\0\0\x18ftypcrx \0\0\0\1",
        b"II*\0\x10\0\0\0CR\2\0",
    ],
)
def test_raw_files_of_other_kinds_are_known_by_their_beginning(tmp_path: Path, start: bytes) -> None:
    path = tmp_path / "a.raw"
    path.write_bytes(start + bytes(200))
    with pytest.raises(UnreadablePictureError, match="is a raw file"):
        probe(path)


def test_pyramids_and_pages_are_no_raw_files(tmp_path: Path) -> None:
    picture = np.zeros((64, 96, 3), np.uint8)
    with tifffile.TiffWriter(tmp_path / "pyramid.tif") as file:
        file.write(picture, photometric="rgb", subifds=1, metadata=None)
        file.write(picture[::2, ::2], photometric="rgb", metadata=None)
    assert probe(tmp_path / "pyramid.tif").width == 96


def damaged_profiles() -> dict[str, bytes]:
    whole = make_profile(ADOBE_RGB)
    nonsense = bytearray(np.random.default_rng(2).integers(0, 256, 400, dtype=np.uint8).tobytes())
    nonsense[16:20] = b"RGB "
    return {
        "cut off": whole[:200],
        "header alone": whole[:128],
        "nonsense": bytes(nonsense),
        "no tables": whole[:132] + bytes(300),
        "tiny": b"icc",
    }


@pytest.mark.parametrize("name", list(damaged_profiles()))
@pytest.mark.parametrize("suffix", ["png", "jpg", "tif"])
def test_damaged_profiles_are_left_out_and_said(tmp_path: Path, name: str, suffix: str) -> None:
    path = tmp_path / f"a.{suffix}"
    Image.new("RGB", (32, 24), (200, 100, 50)).save(path, icc_profile=damaged_profiles()[name])
    picture = read_picture(path)
    assert picture.profile is None
    assert picture.pixels.shape == (24, 32, 3)
    if suffix != "png":  # libpng drops it before anybody can tell
        assert "colour profile is damaged" in " ".join(picture.notices)
    thumbnail, found = read_small(path, 16)
    assert thumbnail.shape == (12, 16, 3)
    assert profile_name(found.profile)


def test_pipes_and_devices_are_refused_at_once(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe.png")
    for path in (tmp_path / "pipe.png", Path("/dev/zero")):
        with pytest.raises(UnreadablePictureError, match="device or a pipe"):
            probe(path)


def test_names_that_no_encoding_can_say_are_refused_in_words(tmp_path: Path) -> None:
    path = Path(os.fsdecode(os.fsencode(tmp_path) + b"/\xff\xfe.png"))
    with pytest.raises(UnreadablePictureError, match="not written in UTF-8"):
        probe(path)


@pytest.mark.parametrize("suffix", ["jpg", "png", "webp", "tif", "bmp", "gif", "jp2"])
@pytest.mark.parametrize("fate", ["gone", "shortened", "overwritten"])
def test_once_opened_a_source_is_safe_from_other_programs(
    suffix: str, fate: str, tmp_path: Path, photo: NDArray[np.uint8]
) -> None:
    path = tmp_path / f"wall.{suffix}"
    Image.fromarray(photo).save(path)
    expected = read_picture(path).pixels
    header, file = open_image_file(path)
    if fate == "gone":
        path.unlink()
    else:
        with path.open("r+b") as other:  # the same file, as some programs save
            other.truncate(40 if fate == "shortened" else header.file_bytes)
            other.write(b"\0" * 100)
    assert file.opened is not None
    assert np.array_equal(read_picture(file.opened).pixels, expected)


def test_a_file_that_is_written_to_while_it_is_copied_is_not_half_read(
    tmp_path: Path, photo: NDArray[np.uint8], monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "wall.png"
    Image.fromarray(photo).save(path)
    sendfile, times = os.sendfile, iter(range(1, 1000))

    def busy(*arguments: int) -> int:
        os.utime(path, ns=(next(times), next(times)))
        return sendfile(*arguments)

    monkeypatch.setattr(os, "sendfile", busy)
    with pytest.raises(SourceChangedError, match=r"wall\.png has changed"):
        probe(path)


def test_a_source_that_is_another_file_by_now_is_refused(tmp_path: Path, photo: NDArray[np.uint8]) -> None:
    path = tmp_path / "wall.png"
    Image.fromarray(photo).save(path)
    source = probe(path).source
    os.utime(path, ns=(1, 1))
    with pytest.raises(SourceChangedError):
        open_source(source)


@pytest.mark.parametrize("name", ["a\0b.png", "a\nb.png", "", ".."])
def test_odd_names_are_sentences(name: str, tmp_path: Path) -> None:
    with pytest.raises(UnreadablePictureError):
        probe(tmp_path / name)


def test_what_is_no_regular_file_is_refused_at_once(tmp_path: Path) -> None:
    (tmp_path / "loop.png").symlink_to("loop.png")
    server = socket.socket(socket.AF_UNIX)
    server.bind(str(tmp_path / "socket.png"))
    for name in ("loop.png", "socket.png"):
        with pytest.raises(UnreadablePictureError, match="cannot be opened"):
            probe(tmp_path / name)
    server.close()
