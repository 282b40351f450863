"""What lies around a picture on its sheet, side by side with what it is made from."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image

from wamplex.core.base.errors import Cancelled, DeliveryError
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.deliver import deliver as deliver_module
from wamplex.core.deliver.deliver import deliver
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.naming import move_into_place
from wamplex.core.geometry.pages import Pages, divide_into_pages
from wamplex.core.geometry.sheet import Ring, Sheet
from wamplex.core.intake.read import read_picture
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.render.border_fill import BorderStage
from wamplex.core.render.render import render_sheet
from wamplex.core.upscale.stages.stage import ArrayStage

FILLINGS = ["paper", "mirrored", "stretched", "blurred", "plain", "filled"]


def around(pixels: np.ndarray, ring: Ring, window: Window | None = None) -> np.ndarray:
    height, width = pixels.shape[:2]
    held = ArrayStage(pixels, Window(0, 0, width, height), width, height)
    stage = BorderStage(held, ring, lambda _side: pixels)
    return stage.render(window or Window(0, 0, stage.width, stage.height), Progress())


@pytest.fixture
def pixels(photo: np.ndarray) -> np.ndarray:
    return photo[:40, :60].astype(np.float32) / np.float32(255)


@pytest.mark.parametrize("filling", FILLINGS)
@pytest.mark.parametrize("channels", [1, 3, 4])
def test_inside_nothing_changes(filling: str, channels: int, pixels: np.ndarray) -> None:
    four = np.concatenate([pixels, np.ones((40, 60, 1), np.float32)], axis=2)
    picture = four[..., :channels] if channels != 1 else four[..., 1:2]
    made = around(picture, Ring(7, 5, 9, 3, filling))  # type: ignore[arg-type]
    assert made.shape == (48, 76, channels)
    assert np.array_equal(made[5:45, 7:67], picture)


@pytest.mark.parametrize("filling", FILLINGS)
def test_windows_across_the_edge_agree_with_the_whole(filling: str, pixels: np.ndarray) -> None:
    ring = Ring(13, 11, 20, 17, filling)  # type: ignore[arg-type]
    whole = around(pixels, ring)
    for window in (Window(0, 0, 20, 20), Window(5, 30, 80, 6), Window(60, 2, 33, 66), Window(80, 60, 1, 1)):
        part = whole[window.y : window.bottom, window.x : window.right]
        assert np.abs(around(pixels, ring, window) - part).max() < 1e-6


def test_mirrors_fold_again_when_the_ring_is_wider_than_the_picture(pixels: np.ndarray) -> None:
    made = around(pixels, Ring(130, 0, 0, 0, "mirrored"))
    assert np.array_equal(made[:, 70:130], pixels[:, ::-1])
    assert np.array_equal(made[:, 10:70], pixels)


def test_plain_is_the_mean_of_the_edge() -> None:
    picture = np.full((20, 20, 3), 0.5, np.float32)
    picture[5:15, 5:15] = 1.0
    assert np.allclose(around(picture, Ring(4, 4, 4, 4, "plain"))[:4], 0.5)


def test_paper_is_white(pixels: np.ndarray) -> None:
    assert (around(pixels, Ring(4, 4, 4, 4, "paper"))[-4:] == 1.0).all()


def test_blurred_surroundings_are_smooth_and_like_the_picture(pixels: np.ndarray) -> None:
    made = around(pixels, Ring(0, 0, 40, 0, "blurred"))[:, 60:]
    assert np.abs(np.diff(made, axis=1)).max() < 0.25 * np.abs(np.diff(pixels, axis=1)).max()
    assert np.abs(made.mean(axis=(0, 1)) - pixels[:, 20:].mean(axis=(0, 1))).max() < 0.1


def test_rings_nest(photo: np.ndarray) -> None:
    """A mirrored wrap goes around the margin too: beyond bare paper there is bare paper."""
    picture = Picture(photo[:40, :60].astype(np.float32) / np.float32(255))
    sheet = Sheet(width_mm=80, height_mm=60, margin_mm=10, wrap_mm=5)
    recipe = Recipe(base=TrialSpec(upscaler="nearest"), factor=1, density_ppi=25.4, sheet=sheet)
    made = render_sheet(picture, recipe, Window(0, 0, 90, 70))
    assert (made[:15] == 1).all()
    assert np.array_equal(made[15:55, 15:75], picture.pixels)


@pytest.mark.parametrize("file_format", ["png", "jpeg", "tiff"])
def test_transparent_pictures_go_onto_sheets(file_format: str, tmp_path: Path, photo: np.ndarray) -> None:
    path = tmp_path / "cut-out.png"
    alpha = np.full((40, 60, 1), 128, np.uint8)
    Image.fromarray(np.concatenate([photo[:40, :60], alpha], axis=2)).save(path)
    sheet = Sheet(width_mm=100, height_mm=100, place="extend", extension="blurred")
    delivery = Delivery.model_validate({"format": file_format, "depth": 8})
    recipe = Recipe(base=TrialSpec(upscaler="bicubic"), factor=1.6, density_ppi=25.4, sheet=sheet)
    done = deliver(read_picture(path), recipe, delivery)
    with Image.open(done.path) as image:
        assert image.size == (100, 100)
        assert image.mode == ("RGB" if file_format == "jpeg" else "RGBA")


@pytest.fixture
def divided(tmp_path: Path, photo: np.ndarray) -> tuple[Picture, Recipe, Delivery]:
    path = tmp_path / "photo.png"
    Image.fromarray(photo).save(path)
    pages = Pages(width_mm=50, height_mm=40, overlap_mm=6)
    recipe = Recipe(base=TrialSpec(upscaler="bicubic"), factor=4, density_ppi=150)
    return read_picture(path), recipe, Delivery(depth=8, pages=pages)


def test_no_page_is_left_when_one_fails(
    divided: tuple[Picture, Recipe, Delivery], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    real, calls = move_into_place, []

    def fails_at_the_third(partial: Path, wanted: Path) -> Path:
        calls.append(wanted)
        if len(calls) == 3:
            raise OSError(28, "No space left on device")
        return real(partial, wanted)

    monkeypatch.setattr(deliver_module, "move_into_place", fails_at_the_third)
    with pytest.raises(DeliveryError, match="disk is full"):
        deliver(*divided)
    assert [p.name for p in tmp_path.glob("*photo*")] == ["photo.png"]


def test_no_page_is_left_when_cancelled(divided: tuple[Picture, Recipe, Delivery], tmp_path: Path) -> None:
    progress = Progress(lambda done, _words: progress.cancel() if done > 0.5 else None)
    with pytest.raises(Cancelled):
        deliver(*divided, progress)
    assert [p.name for p in tmp_path.glob("*photo*")] == ["photo.png"]


def test_pages_keep_what_is_there_already(divided: tuple[Picture, Recipe, Delivery], tmp_path: Path) -> None:
    taken = tmp_path / "photo-4x-row1-column1.tif"
    taken.write_bytes(b"mine")
    done = deliver(*divided)
    assert taken.read_bytes() == b"mine"
    assert done.pages[0].name == "photo-4x-row1-column1-2.tif"
    assert "6 pages" in done.text


def test_sixteen_bits_survive_on_pages(divided: tuple[Picture, Recipe, Delivery]) -> None:
    picture, recipe, delivery = divided
    assert tifffile.imread(deliver(picture, recipe, delivery.replace(depth=16)).pages[3]).dtype == np.uint16


@pytest.mark.parametrize(("width", "height", "count"), [(500, 300, 1), (900, 300, 2), (1000, 1500, 9)])
def test_sheets_are_turned_when_that_saves_pages(width: int, height: int, count: int) -> None:
    pages = divide_into_pages(width, height, 25.4, Pages(width_mm=350, height_mm=550, overlap_mm=10))
    assert len(pages) == count
    assert max(p.window.right for p in pages) == width
    assert max(p.window.bottom for p in pages) == height
