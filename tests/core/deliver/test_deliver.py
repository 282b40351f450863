"""Delivery: what stands in the file, and that it appears whole or not at all."""

from __future__ import annotations

import errno
import io
import os
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import tifffile
from numpy.typing import NDArray
from PIL import Image
from PIL.TiffImagePlugin import IFDRational

from wamplex.core.base.errors import Cancelled, DeliveryError, SizeError
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.icc import ADOBE_RGB, make_profile
from wamplex.core.deliver import deliver as deliver_module
from wamplex.core.deliver.deliver import deliver
from wamplex.core.deliver.request import size_limits as limits_module
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.file_description import FileDescription
from wamplex.core.deliver.request.samples import Bands
from wamplex.core.deliver.writers import tile_samples as tile_samples_module
from wamplex.core.intake.read import read_picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.preview.result_preview import preview
from wamplex.core.render.plan import Plan
from wamplex.core.render.render import render


def asked(upscaler: str = "lanczos", factor: float = 2.0, **delivery: object) -> tuple[Recipe, Delivery]:
    return Recipe(base=TrialSpec(upscaler=upscaler), factor=factor), Delivery.model_validate(delivery)


@pytest.fixture
def tagged_file(tmp_path: Path, photo: NDArray[np.uint8]) -> Path:
    """A JPEG with Adobe RGB profile, EXIF and 240 ppi."""
    exif = Image.Exif()
    exif[271] = "Lanternworks"
    exif[306] = "2026:11:23 20:00:00"
    exif.get_ifd(0x8769)[33434] = IFDRational(1, 60)
    exif.get_ifd(0x8769)[42036] = "Puppet lens 50 mm"
    exif.get_ifd(0x8825)[1] = "N"
    path = tmp_path / "tagged.jpg"
    profile = make_profile(ADOBE_RGB)
    Image.fromarray(photo).save(path, exif=exif, icc_profile=profile, dpi=(240, 240), quality=95)
    return path


@pytest.mark.parametrize("file_format", ["tiff", "png"])
@pytest.mark.parametrize("depth", [8, 16])
@pytest.mark.parametrize("upscaler", ["bicubic", "vellum"])
def test_file_holds_the_rendered_pixels(photo_file: Path, file_format: str, depth: int, upscaler: str) -> None:
    """Read back by libraries that did not write it: tifffile for TIFF was given only bytes by us."""
    picture = read_picture(photo_file)
    wanted, delivery = asked(upscaler, 2.5, format=file_format, depth=depth)
    done = deliver(picture, wanted, delivery)
    size = wanted.size(picture.width, picture.height)
    rendered = render(picture, wanted, Window(0, 0, size.width_px, size.height_px))
    again = read_picture(done.path).pixels
    assert np.abs(again - rendered).max() <= 0.5 / (2**depth - 1) + 1e-6
    if file_format == "tiff":
        largest = 2**depth - 1
        assert np.abs(tifffile.imread(done.path) / largest - again).max() < 1e-6


@pytest.mark.parametrize("upscaler", ["nearest", "lanczos", "vellum"])
def test_screen_shows_the_pixels_of_the_file(photo_file: Path, upscaler: str) -> None:
    picture = read_picture(photo_file)
    wanted, delivery = asked(upscaler, 3.0, format="png", depth=8)
    in_file = np.asarray(Image.open(deliver(picture, wanted, delivery).path))
    window = Window(70, 33, 128, 96)
    shown = preview(picture, wanted, window)
    # Tiles of a network may differ in the last bit of a float, which can tip a rounding.
    difference = np.abs(shown.astype(int) - in_file[33 : 33 + 96, 70 : 70 + 128])
    assert difference.max() <= (1 if upscaler == "vellum" else 0)
    assert (difference == 0).mean() > 0.999


@pytest.mark.parametrize("file_format", ["tiff", "png", "jpeg"])
def test_profile_density_and_metadata_survive(tagged_file: Path, file_format: str) -> None:
    done = deliver(read_picture(tagged_file), *asked(format=file_format, metadata="all"))
    with Image.open(done.path) as image:
        assert image.info["icc_profile"] == make_profile(ADOBE_RGB)
        assert float(image.info["dpi"][0]) == pytest.approx(300, abs=0.02)
        exif = image.getexif()
        assert exif[271] == "Lanternworks"
        assert exif.get(274, 1) == 1
        assert float(exif.get_ifd(0x8769)[33434]) == pytest.approx(1 / 60)
        assert exif.get_ifd(0x8769)[42036] == "Puppet lens 50 mm"
        assert exif.get_ifd(0x8825)[1] == "N"


def test_metadata_can_be_left_out(tagged_file: Path) -> None:
    done = deliver(read_picture(tagged_file), *asked(format="tiff", metadata="none"))
    with Image.open(done.path) as image:
        assert 271 not in image.getexif()


def test_grey_and_alpha_stay(tmp_path: Path, photo: NDArray[np.uint8]) -> None:
    alpha = np.tile(np.linspace(0, 255, photo.shape[1]).astype(np.uint8), (photo.shape[0], 1))
    for name, pixels, bands in (("g", photo[..., 0], 1), ("ga", np.dstack([photo[..., 0], alpha]), 2)):
        path = tmp_path / f"{name}.png"
        Image.fromarray(pixels).save(path)
        for file_format in ("tiff", "png"):
            with Image.open(deliver(read_picture(path), *asked(format=file_format, depth=8)).path) as image:
                assert len(image.getbands()) == bands


def test_existing_files_are_never_replaced(photo_file: Path) -> None:
    picture = read_picture(photo_file)
    names = [deliver(picture, *asked(format="png", depth=8)).path.name for _ in range(3)]
    assert names == ["photo-2x.png", "photo-2x-2.png", "photo-2x-3.png"]
    again = deliver(picture, *asked(format="png", name_pattern="{name}")).path
    assert again.name == "photo-2.png"


@pytest.mark.parametrize("file_format", ["tiff", "png", "jpeg"])
def test_cancelling_leaves_nothing(photo_file: Path, file_format: str) -> None:
    picture = read_picture(photo_file)
    before = set(photo_file.parent.iterdir())
    progress = Progress(lambda fraction, words: progress.cancel())
    with pytest.raises(Cancelled):
        deliver(picture, *asked(factor=8, format=file_format), progress)
    assert set(photo_file.parent.iterdir()) == before


def test_cancelling_is_heard_in_the_middle_of_a_band(photo_file: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    picture, progress, pieces = read_picture(photo_file), Progress(), []

    def write(_path: Path, bands: Bands, _about: FileDescription) -> None:
        for piece in bands:
            pieces.append(len(piece))
            progress.cancel()

    monkeypatch.setitem(deliver_module._WRITERS, "jpeg", write)
    monkeypatch.setattr(deliver_module, "_PIECE_BYTES", 7 * 3 * 2 * picture.width)
    with pytest.raises(Cancelled):
        deliver(picture, *asked(format="jpeg"), progress)
    assert pieces == [7]


@pytest.mark.parametrize("file_format", ["tiff", "png", "jpeg"])
def test_failure_while_rendering_leaves_nothing(
    photo_file: Path, file_format: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    picture = read_picture(photo_file)
    before = set(photo_file.parent.iterdir())

    def full(*_args: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(tile_samples_module, "file_samples", full)
    with pytest.raises(DeliveryError, match="disk is full"):
        deliver(picture, *asked(format=file_format))
    assert set(photo_file.parent.iterdir()) == before


def test_a_damaged_file_is_noticed_on_reading_back(photo_file: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def writes_badly(path: Path, bands, about) -> None:  # type: ignore[no-untyped-def]
        rows = np.concatenate(list(bands))
        rows[5, 5] ^= 1
        tifffile.imwrite(path, rows, photometric="rgb", resolution=(300, 300), resolutionunit="inch")

    monkeypatch.setitem(deliver_module._WRITERS, "tiff", writes_badly)
    before = set(photo_file.parent.iterdir())
    with pytest.raises(DeliveryError, match="pixels"):
        deliver(read_picture(photo_file), *asked(format="tiff"))
    assert set(photo_file.parent.iterdir()) == before


@pytest.mark.parametrize("kept", [0.5, 0.999])
def test_a_jpeg_cut_short_is_noticed_on_reading_back(
    photo_file: Path, monkeypatch: pytest.MonkeyPatch, kept: float
) -> None:
    writes_well = deliver_module._WRITERS["jpeg"]

    def writes_less(path: Path, bands, about) -> None:  # type: ignore[no-untyped-def]
        writes_well(path, bands, about)
        path.write_bytes(path.read_bytes()[: int(kept * path.stat().st_size)])

    monkeypatch.setitem(deliver_module._WRITERS, "jpeg", writes_less)
    before = set(photo_file.parent.iterdir())
    with pytest.raises(DeliveryError, match="cannot be read back"):
        deliver(read_picture(photo_file), *asked(format="jpeg"))
    assert set(photo_file.parent.iterdir()) == before


def _wrong_sample(path: Path, rows: NDArray[np.uint8]) -> None:
    rows[5, 5] ^= 1
    Image.fromarray(rows).save(path, "png", dpi=(300, 300))


def _junk_after_the_head(path: Path, rows: NDArray[np.uint8]) -> None:
    whole = io.BytesIO()
    Image.fromarray(rows).save(whole, "png", dpi=(300, 300))
    # Written once: the reader follows at once, so a good file must never stand there, not even for a moment.
    path.write_bytes(whole.getvalue()[:500] + bytes(3 << 20))


def _full_disk(path: Path, rows: NDArray[np.uint8]) -> None:
    raise OSError(errno.ENOSPC, "No space left on device")


def _vanished_folder(path: Path, rows: NDArray[np.uint8]) -> None:
    Image.fromarray(rows).save(path, "png")
    path.unlink()


@pytest.mark.parametrize(
    ("writes", "words"),
    [
        (_wrong_sample, "pixels"),
        (_junk_after_the_head, "cannot be read back"),
        (_full_disk, "disk"),
        (_vanished_folder, "is gone"),
    ],
)
def test_a_png_is_read_back_while_it_is_written(
    photo_file: Path, monkeypatch: pytest.MonkeyPatch, writes: Callable[..., None], words: str
) -> None:
    """However the writing ends: nothing hangs, and nothing is left."""
    monkeypatch.setitem(
        deliver_module._WRITERS, "png", lambda path, bands, about: writes(path, np.concatenate(list(bands)))
    )
    before = set(photo_file.parent.iterdir())
    with pytest.raises(DeliveryError, match=words):
        deliver(read_picture(photo_file), *asked(format="png", depth=8))
    assert set(photo_file.parent.iterdir()) == before


def test_too_large_for_jpeg_is_refused_before_any_work(tmp_path: Path) -> None:
    path = tmp_path / "wide.png"
    Image.new("L", (9000, 2)).save(path)
    with pytest.raises(SizeError):
        deliver(read_picture(path), *asked(factor=8, format="jpeg"))
    assert [p.name for p in tmp_path.iterdir()] == ["wide.png"]


def test_unknown_name_fields_are_refused(photo_file: Path) -> None:
    with pytest.raises(DeliveryError, match=r"\{colour\}"):
        deliver(read_picture(photo_file), *asked(name_pattern="{name}-{colour}"))
    with pytest.raises(DeliveryError):
        deliver(read_picture(photo_file), *asked(name_pattern="../{name}"))


def test_transparent_pictures_become_jpeg_on_white(tmp_path: Path) -> None:
    path = tmp_path / "clear.png"
    Image.new("RGBA", (20, 20), (255, 0, 0, 0)).save(path)
    with Image.open(deliver(read_picture(path), *asked(format="jpeg")).path) as image:
        assert np.asarray(image).min() > 250


def test_what_is_light_on_transparency_becomes_jpeg_on_black_as_it_was_shown(tmp_path: Path) -> None:
    path = tmp_path / "ink.png"
    ink = Image.new("RGBA", (20, 20), (255, 255, 255, 0))
    ink.paste((255, 255, 255, 255), (5, 5, 12, 12))
    ink.save(path)
    with Image.open(deliver(read_picture(path), *asked("nearest", 2.0, format="jpeg")).path) as image:
        pixels = np.asarray(image)
    assert pixels[30, 30].max() < 5
    assert pixels[17, 17].min() > 250


def test_results_may_be_larger_than_sources(photo_file: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The limit on what is decoded whole must not stop a large file from being read back."""
    from wamplex.core.intake import probe as probe_module

    picture = read_picture(photo_file)
    monkeypatch.setattr(probe_module, "LARGEST_SOURCE_MP", 0.1)
    assert deliver(picture, *asked(factor=4)).check.pixels_equal


def test_names_may_be_as_long_as_names_can_be(photo_file: Path) -> None:
    path = photo_file.rename(photo_file.with_name("n" * 240 + ".png"))
    done = deliver(read_picture(path), *asked("bicubic", 2.0, format="png", name_pattern="{name}-b"))
    assert done.path.name == "n" * 240 + "-b.png"


def test_a_refused_export_leaves_no_folder(photo_file: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    folder = tmp_path / "new" / "prints"
    recipe, delivery = asked("bicubic", 2.0, folder=folder)
    monkeypatch.setattr(limits_module, "free_bytes", lambda _folder: 10)
    with pytest.raises(SizeError, match=r"Make room there, or choose another folder\.$"):
        deliver(read_picture(photo_file), recipe, delivery)
    assert not (tmp_path / "new").exists()
    monkeypatch.undo()
    progress = Progress(lambda _done, _words: progress.cancel())
    with pytest.raises(Cancelled):
        deliver(read_picture(photo_file), recipe, delivery, progress)
    assert not (tmp_path / "new").exists()


@pytest.mark.parametrize("value", [np.nan, np.inf])
def test_values_that_are_no_numbers_never_reach_a_writer(
    photo_file: Path, monkeypatch: pytest.MonkeyPatch, value: float
) -> None:
    """Wherever they may come from."""

    def render(_plan: Plan, window: Window, _progress: object = None) -> NDArray[np.float32]:
        pixels = np.zeros((window.height, window.width, 3), np.float32)
        pixels[-1, -1] = value
        return pixels

    monkeypatch.setattr(Plan, "render", render)
    before = set(photo_file.parent.iterdir())
    with pytest.raises(DeliveryError, match="NaN or infinite"):
        deliver(read_picture(photo_file), *asked(format="png", depth=8))
    assert set(photo_file.parent.iterdir()) == before


def test_matrix_products_keep_to_one_thread() -> None:
    """Threads of theirs that wait for more would take a core from the networks."""
    script = (
        "import wamplex.commands.enlarge\nfrom threadpoolctl import threadpool_info\n"
        "print({pool['num_threads'] for pool in threadpool_info() if 'numpy' in pool['filepath']})"
    )
    environment = {k: v for k, v in os.environ.items() if k != "OPENBLAS_NUM_THREADS"}
    ran = subprocess.run([sys.executable, "-c", script], env=environment, capture_output=True, text=True, check=True)
    assert ran.stdout.strip() == "{1}"
