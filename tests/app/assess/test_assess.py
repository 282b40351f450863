"""The Assess step in the real window: the sheet fills, suggestions are used, spots are moved."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from pytestqt.qtbot import QtBot
from skimage import data
from tests.app.watching import WAIT_MS, grabbed

from wamplex.app.tray.entry import TrayEntry
from wamplex.app.window.main_window import ASSESS, MainWindow
from wamplex.core.geometry.framing import Crop

TakeIn = Callable[[list[Path]], None]


@pytest.fixture
def portrait(tmp_path: Path) -> Path:
    """Scikit-image's astronaut with a white border, saved as JPEG of quality 40."""
    path = tmp_path / "portrait.jpg"
    framed = np.pad(data.astronaut()[:300, 60:360], ((16, 16), (24, 24), (0, 0)), constant_values=255)
    Image.fromarray(framed).save(path, quality=40, subsampling=0)
    return path


def assessed(window: MainWindow, take_in: TakeIn, qtbot: QtBot, path: Path) -> TrayEntry:
    take_in([path])
    window.open_step(ASSESS)
    entry = window.tray.entries[0]
    qtbot.waitUntil(lambda: entry.suggested is not None, timeout=WAIT_MS)
    return entry


def test_the_sheet_says_what_was_done_to_the_picture(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, portrait: Path
) -> None:
    assessed(window, take_in, qtbot, portrait)
    cards = window.assess_step.cards
    assert "JPEG, quality 40" in cards["compression"].text
    assert "1 found" in cards["faces"].text
    assert "found" in cards["borders"].text
    assert all(card.finding is not None and card.finding.reason for card in cards.values())
    assert window.tray.entries[0].spots[0].name == "Eye"


def test_ticked_suggestions_are_used_and_others_are_not(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, portrait: Path
) -> None:
    entry = assessed(window, take_in, qtbot, portrait)
    said: list[str] = []
    window.assess_step.announced.connect(said.append)
    cards = window.assess_step.cards
    cards["size"].tick.setChecked(False)
    qtbot.mouseClick(window.assess_step.use_button, Qt.MouseButton.LeftButton)
    crop = entry.framing.crop
    assert crop is not None
    # Compression smears a border's edge over the block it lies in.
    assert np.abs(np.subtract((crop.x, crop.y, crop.width, crop.height), (24, 16, 300, 300))).max() <= 7
    assert entry.size is not None
    assert entry.size.factor == 4.0
    mender = next(t for t in entry.trials.remaining if t.upscaler_key == "mender")
    assert entry.trial_recipe(mender).values.compression == 60
    assert "Cropped to" in said[-1]
    assert "compression 60" in said[-1]


def test_an_unticked_repair_is_left_alone(window: MainWindow, take_in: TakeIn, qtbot: QtBot, portrait: Path) -> None:
    entry = assessed(window, take_in, qtbot, portrait)
    for key, card in window.assess_step.cards.items():
        card.tick.setChecked(key == "size")
    window.assess_step.use_ticked()
    assert entry.size is not None
    assert entry.size.factor == 6.0
    assert entry.framing.crop is None


def test_spots_are_dragged_placed_and_deleted(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, portrait: Path
) -> None:
    entry = assessed(window, take_in, qtbot, portrait)
    view, box = window.assess_step.view, window.assess_step.view.box()
    eye = entry.spots[0]
    start = QPoint(round(box.x() + eye.x * box.width()), round(box.y() + eye.y * box.height()))
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=start)
    middle = box.center().toPoint()
    qtbot.mouseMove(view, middle)
    qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=middle)
    assert (entry.spots[0].x, entry.spots[0].y) == pytest.approx((0.5, 0.5), abs=0.01)
    qtbot.keyClick(view, Qt.Key.Key_Delete)
    assert "Eye" not in [s.name for s in entry.spots]
    window.assess_step.add_button.click()
    qtbot.mouseClick(view, Qt.MouseButton.LeftButton, pos=middle)
    assert entry.spots[-1].name == "Own spot"
    assert window.tray.undo()
    assert "Own spot" not in [s.name for s in entry.spots]


def test_spots_are_reached_from_the_keyboard(window: MainWindow, take_in: TakeIn, qtbot: QtBot, portrait: Path) -> None:
    entry = assessed(window, take_in, qtbot, portrait)
    view, before = window.assess_step.view, entry.spots[1]
    for key in (Qt.Key.Key_PageDown, Qt.Key.Key_PageDown, Qt.Key.Key_Right, Qt.Key.Key_Up):
        qtbot.keyClick(view, key)
    assert (entry.spots[1].x, entry.spots[1].y) == pytest.approx((before.x + 0.01, before.y - 0.01))
    qtbot.keyClick(view, Qt.Key.Key_Delete)
    assert before.name not in [spot.name for spot in entry.spots]


def test_the_subject_is_shown_by_a_veil_over_the_rest(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, portrait: Path
) -> None:
    assessed(window, take_in, qtbot, portrait)
    step = window.assess_step
    step.spots_button.setChecked(False)
    plain = grabbed(step.view).astype(int)
    step.subject_button.setChecked(True)
    veiled = np.abs(grabbed(step.view) - plain).sum(axis=2)
    height, width = veiled.shape
    assert veiled[: height // 8].mean() > 3 * veiled[height // 2 : -height // 8, width // 3 : -width // 3].mean()
    step.sharp_button.setChecked(True)
    assert not step.subject_button.isChecked()


def test_spots_stay_on_their_places_when_the_picture_is_cropped(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, portrait: Path
) -> None:
    entry = assessed(window, take_in, qtbot, portrait)
    assert entry.header is not None
    eye = entry.spots[0]
    place = (eye.x * entry.header.width, eye.y * entry.header.height)
    crop = Crop(x=60, y=20, width=240, height=200)
    window.tray.set_framing(entry.number, entry.framing.replace(crop=crop))
    moved = entry.spots[0]
    assert (60 + moved.x * 240, 20 + moved.y * 200) == pytest.approx(place)
