"""Guests: files enlarged elsewhere lie as the picture does, and are delivered as they are."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image, ImageCms
from scipy import ndimage
from skimage import data

from wamplex.core.base.errors import RecipeError, SizeError, WamplexError
from wamplex.core.base.window import Window
from wamplex.core.colour.icc import ADOBE_RGB, make_profile
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.guests.guest import Guest
from wamplex.core.guests.guest_store import add_guest, find_guest
from wamplex.core.intake.read import read_picture
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.settings import guests_dir
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.render.render import render


@pytest.fixture
def large() -> np.ndarray:
    """scikit-image's astronaut (public domain, NASA), (360, 450, 3) uint8."""
    return np.ascontiguousarray(data.astronaut()[0:360, 60:510])


@pytest.fixture
def small(tmp_path: Path, large: np.ndarray) -> Picture:
    """A third of it, as a file."""
    Image.fromarray(large).resize((150, 120), Image.Resampling.BICUBIC).save(tmp_path / "small.png")
    return read_picture(tmp_path / "small.png")


def saved(path: Path, pixels: np.ndarray, **options: object) -> Path:
    Image.fromarray(pixels).save(path, **options)
    return path


def recipe_of(guest: Guest, **changes: Any) -> Recipe:
    return Recipe(base=TrialSpec(upscaler=guest.key), **{"factor": 3.0, **changes})


def whole(picture: Picture, recipe: Recipe) -> np.ndarray:
    size = recipe.size(picture.width, picture.height)
    return render(picture, recipe, Window(0, 0, size.width_px, size.height_px))


def test_at_its_own_size_it_is_the_file_whatever_window_turn_or_crop(
    tmp_path: Path, small: Picture, large: np.ndarray
) -> None:
    guest = add_guest(saved(tmp_path / "elsewhere.png", large), small)
    assert guest.name == "elsewhere"
    assert (guest.note.right, guest.note.down) == (0, 0)
    truth = large.astype(np.float32) / 255
    made = whole(small, recipe_of(guest))
    assert np.abs(made - truth).max() <= 1 / 65535
    part = render(small, recipe_of(guest), Window(31, 17, 90, 60))
    assert np.abs(part - truth[17:77, 31:121]).max() <= 1 / 65535
    turned = Framing(turns=1, flipped=True, crop=Crop(x=10, y=20, width=80, height=70))
    expected = np.rot90(truth, -1)[:, ::-1][60:270, 30:270]
    assert np.abs(whole(small, recipe_of(guest, framing=turned)) - expected).max() <= 1 / 65535


@pytest.mark.parametrize("moved", [(0.5, -0.3), (-2.0, 1.25)])
def test_one_that_lies_elsewhere_is_moved_to_fit(
    tmp_path: Path, small: Picture, large: np.ndarray, moved: tuple[float, float]
) -> None:
    off = ndimage.shift(large.astype(np.float32), (3 * moved[0], 3 * moved[1], 0), order=3, mode="nearest")
    guest = add_guest(saved(tmp_path / "a.png", np.clip(np.rint(off), 0, 255).astype(np.uint8)), small)
    assert (guest.note.down, guest.note.right) == pytest.approx((-moved[0], -moved[1]), abs=0.05)
    inside = np.s_[30:-30, 30:-30]
    before = np.abs(off / 255 - large / 255.0)[inside].mean()
    after = np.abs(whole(small, recipe_of(guest)) - large / 255.0)[inside].mean()
    assert after < 0.25 * before
    assert "moved by" in guest.provenance


def test_another_size_and_straightening_show_the_same_places(tmp_path: Path, small: Picture, large: np.ndarray) -> None:
    guest = add_guest(saved(tmp_path / "a.png", large), small)
    for changes in ({"factor": 4.0}, {"factor": 2.0, "framing": Framing(straighten_deg=5)}):
        made = whole(small, recipe_of(guest, **changes))
        plain = whole(small, recipe_of(guest, **changes).replace(base=TrialSpec(upscaler="lanczos")))
        assert made.shape == plain.shape
        assert np.abs(made - plain).mean() < 0.03
    assert "shrunk to 2×" in guest.steps(2.0)


def test_colours_are_those_of_its_profile(tmp_path: Path, small: Picture, large: np.ndarray) -> None:
    """Against LittleCMS through Pillow."""
    wide = make_profile(ADOBE_RGB)
    guest = add_guest(saved(tmp_path / "a.png", large, icc_profile=wide), small)
    flags = ImageCms.Flags.BLACKPOINTCOMPENSATION
    profiles = ImageCms.ImageCmsProfile(io.BytesIO(wide)), ImageCms.createProfile("sRGB")
    expected = ImageCms.profileToProfile(Image.fromarray(large), *profiles, renderingIntent=1, flags=flags)
    difference = np.abs(whole(small, recipe_of(guest)) - np.asarray(expected) / 255.0)
    assert difference.max() <= 2.5 / 255


def test_a_grey_one_is_shown_in_colour_and_one_in_colour_in_grey(
    tmp_path: Path, small: Picture, large: np.ndarray
) -> None:
    grey = np.asarray(Image.fromarray(large).convert("L"))
    guest = add_guest(saved(tmp_path / "grey.png", grey), small)
    made = whole(small, recipe_of(guest))
    assert made.shape == (360, 450, 3)
    assert np.abs(made - grey[..., None] / 255.0).max() < 1.5 / 255
    Image.fromarray(grey).resize((150, 120)).save(tmp_path / "small-grey.png")
    source = read_picture(tmp_path / "small-grey.png")
    coloured = add_guest(saved(tmp_path / "b.png", large), source)
    assert np.abs(whole(source, recipe_of(coloured))[..., 0] - grey / 255.0).max() < 1.5 / 255


def test_what_cannot_be_one_is_refused_in_words(tmp_path: Path, small: Picture, large: np.ndarray) -> None:
    refused = {
        "proportions": large[:, :300],
        "times as wide": large[::6, ::6],
        "do not show the same": large[::-1, ::-1],
    }
    for words, pixels in refused.items():
        path = saved(tmp_path / "a.png", np.ascontiguousarray(pixels))
        with pytest.raises(SizeError, match=words):
            add_guest(path, small)
    (tmp_path / "no.png").write_text("no picture")
    with pytest.raises(WamplexError):
        add_guest(tmp_path / "no.png", small)
    assert not list(guests_dir().glob("*"))


def test_its_file_may_go_but_its_pixels_may_not(tmp_path: Path, small: Picture, large: np.ndarray) -> None:
    path = saved(tmp_path / "a.png", large)
    guest = add_guest(path, small)
    path.unlink()
    assert find_guest(guest.key).note == guest.note
    made = whole(small, recipe_of(guest))
    assert np.array_equal(whole(small, recipe_of(guest)), made)
    with pytest.raises(RecipeError, match="was taken in for"):
        whole(Picture(small.pixels[:100]), recipe_of(guest))
    for file in guests_dir().iterdir():
        file.unlink()
    with pytest.raises(RecipeError, match="not on this computer"):
        whole(small, recipe_of(guest))
