"""Colours on the bench: the screen's profile, and the proof of a print, against LittleCMS through Pillow."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageCms
from pytestqt.qtbot import QtBot
from skimage.color import deltaE_ciede2000, rgb2lab
from tests.app.watching import WAIT_MS

from wamplex.app.shared.render_requests import TileKey
from wamplex.app.window.main_window import TRIAL, MainWindow
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.icc import DISPLAY_P3, SRGB, make_profile
from wamplex.core.colour.screen_view import ScreenView, convert_for_screen
from wamplex.core.colour.soft_proof import out_of_gamut_fraction
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.settings import load_settings
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.preview.result_preview import gamut_preview

TakeIn = Callable[[list[Path]], None]


def wanted(window: MainWindow) -> list[TileKey]:
    return [key for _, _, key in window.trial_step.open_view.needed_tiles()]


def made(window: MainWindow) -> bool:
    keys = wanted(window)
    return bool(keys) and all(window.trial_step.cache.get(key) is not None for key in keys)


def test_a_proof_is_shown_in_every_cell_and_changes_no_recipe(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path, press: Path
) -> None:
    take_in([photo_file])
    entry = window.tray.entry(0)
    qtbot.waitUntil(lambda: entry.suggested is not None, timeout=WAIT_MS)
    window.open_step(TRIAL)
    recipe = entry.delivered_recipe()
    dialog = window.colours.open()
    dialog.use_proof(press)
    assert "press.icc" in window.status.colours.text()
    assert "% of photo.png will look different in print" in dialog.text
    for name in ("sheet", "linked", "curtain"):
        window.trial_step.show_view(name)
        qtbot.waitUntil(lambda: made(window), timeout=WAIT_MS)
        assert {key.view.proof for key in wanted(window)} == {press.read_bytes()}
    assert entry.delivered_recipe() == recipe
    dialog.use_proof(None)
    assert window.status.colours.text() == "colours: sRGB"


def test_the_screens_profile_is_kept_for_the_next_start(window: MainWindow, tmp_path: Path) -> None:
    wide = tmp_path / "wide.icc"
    wide.write_bytes(make_profile(DISPLAY_P3))
    window.colours.open().use_screen(wide)
    assert load_settings().screen_profile == str(wide)
    again = MainWindow()
    assert again.status.colours.text() == "colours: wide.icc"
    assert again.trial_step.viewport.view.screen == wide.read_bytes()
    again.close()
    wide.unlink()
    without = MainWindow()
    assert without.status.colours.text() == "colours: sRGB"
    without.close()


def test_what_is_no_profile_is_said_and_changes_nothing(window: MainWindow, photo_file: Path, press: Path) -> None:
    dialog = window.colours.open()
    dialog.use_proof(photo_file)
    assert "not an ICC profile" in dialog.text
    dialog.use_screen(press)
    assert "for three colours" in dialog.text
    assert window.status.colours.text() == "colours: sRGB"


def test_the_share_that_cannot_be_printed_is_that_of_littlecms(press: Path) -> None:
    patches = np.zeros((2, 4, 3), np.uint8)
    patches[0] = [(0, 255, 0), (0, 0, 255), (255, 0, 255), (255, 255, 255)]
    patches[1] = [(250, 250, 250), (90, 90, 90), (180, 160, 150), (255, 255, 255)]
    srgb = ImageCms.ImageCmsProfile(io.BytesIO(make_profile(SRGB)))
    inks = ImageCms.getOpenProfile(str(press))
    flags = ImageCms.Flags.BLACKPOINTCOMPENSATION
    there = ImageCms.profileToProfile(Image.fromarray(patches), srgb, inks, 1, outputMode="CMYK", flags=flags)
    back = np.asarray(ImageCms.profileToProfile(there, inks, srgb, 1, outputMode="RGB", flags=flags))
    outside = deltaE_ciede2000(rgb2lab(patches), rgb2lab(back)) > 3
    assert outside[0, :3].all()
    assert out_of_gamut_fraction(patches, press.read_bytes(), "relative") == pytest.approx(outside.mean())


def test_the_white_of_the_paper_is_that_of_littlecms(press: Path) -> None:
    patches = np.zeros((2, 4, 3), np.uint8)
    patches[0] = [(255, 255, 255), (0, 0, 0), (128, 128, 128), (200, 120, 60)]
    patches[1] = [(90, 160, 90), (60, 80, 150), (250, 240, 230), (30, 30, 30)]
    srgb = ImageCms.ImageCmsProfile(io.BytesIO(make_profile(SRGB)))
    flags = ImageCms.Flags.BLACKPOINTCOMPENSATION
    inks = ImageCms.getOpenProfile(str(press))
    flags |= ImageCms.Flags.SOFTPROOFING | ImageCms.Flags.NOOPTIMIZE
    modes = ("RGB", "RGB", ImageCms.Intent.RELATIVE_COLORIMETRIC, ImageCms.Intent.ABSOLUTE_COLORIMETRIC)
    proofed = ImageCms.buildProofTransform(srgb, srgb, inks, *modes, flags=flags)
    expected = np.asarray(ImageCms.applyTransform(Image.fromarray(patches), proofed))
    pixels = patches.astype(np.float32) / np.float32(255)
    view = ScreenView(proof=press.read_bytes(), paper=True)
    shown = convert_for_screen(pixels, Picture(pixels), view) * 255
    assert np.abs(shown - expected).max() <= 1
    assert shown[0, 0].min() < 250  # paper is no screen
    assert convert_for_screen(pixels, Picture(pixels), replace(view, paper=False))[0, 0].min() > 0.99


def test_what_a_printer_has_not_is_drawn_where_it_is(press: Path) -> None:
    pixels = np.full((16, 32, 3), (0.7, 0.63, 0.59), np.float32)
    pixels[:, 16:] = (0, 1, 0)
    picture, recipe = Picture(pixels), Recipe(base=TrialSpec(upscaler="nearest"), factor=1)
    whole = Window(0, 0, 32, 16)
    drawn = gamut_preview(picture, recipe, whole, 1, Progress(), ScreenView(proof=press.read_bytes()))
    assert np.ptp(drawn[:, :16], axis=2).max() == 0  # grey
    assert np.ptp(drawn[:, 16:], axis=2).min() > 100  # amber
    without = gamut_preview(picture, recipe, whole, 1, Progress(), ScreenView())
    assert np.ptp(without, axis=2).max() == 0


def test_the_file_stands_beside_its_proof(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path, press: Path
) -> None:
    take_in([photo_file])
    window.open_step(TRIAL)
    dialog = window.colours.open()
    assert not dialog.with_file.isEnabled()
    dialog.use_proof(press)
    dialog.with_file.click()
    dialog.paper.click()
    assert "white of its paper" in window.status.colours.text()
    inks = press.read_bytes()
    for name in ("linked", "curtain"):
        window.trial_step.show_view(name)
        qtbot.waitUntil(lambda: made(window), timeout=WAIT_MS)
        active = window.tray.entry(0).trials.active
        recipe = window.tray.entry(0).trial_recipe(window.tray.entry(0).trials.find(active))
        assert {key.view.proof for key in wanted(window) if key.recipe == recipe} == {None, inks}
    assert window.trial_step.pair.first.currentText() == "D  without the proof"
    window.trial_step.bar.trace_chosen.emit("outside")
    assert any(key.overlay.outside for key in wanted(window))
    dialog.use_proof(None)
    assert not any(key.overlay.outside for key in wanted(window))
    assert {key.view.proof for key in wanted(window)} == {None}
