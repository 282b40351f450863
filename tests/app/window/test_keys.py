"""Keys come from one table, which the help sheet shows; what was copied can be pasted."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise
from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, QPoint, Qt, QUrl
from PySide6.QtGui import QColor, QGuiApplication, QImage, QKeySequence
from PySide6.QtWidgets import QApplication, QLabel, QWidget
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS

from wamplex.app.shared.keys import KEYS
from wamplex.app.window.clipboard import paste
from wamplex.app.window.full_view import FullView
from wamplex.app.window.main_window import DELIVER, FINISH, TRIAL, MainWindow

TakeIn = Callable[[list[Path]], None]


def test_the_help_sheet_shows_every_key(window: MainWindow) -> None:
    sheet = window.dialogs.help()
    shown = {words.text() for words in sheet.findChildren(QLabel)}
    for entry in KEYS:
        assert entry.text in shown
        assert " or ".join(entry.keys) in shown


def test_no_key_means_two_things_in_one_place() -> None:
    for where in {entry.where for entry in KEYS} - {"Everywhere"}:
        names = [key for entry in KEYS if entry.where in (where, "Everywhere") for key in entry.keys]
        assert len(names) == len(set(names))


def test_every_key_of_the_window_is_bound(window: MainWindow) -> None:
    bound = {keys.toString() for action in window.actions() for keys in action.shortcuts()}
    for entry in KEYS:
        if entry.where == "Everywhere" and entry.name != "source":  # which is held
            assert set(entry.keys) <= bound
        for keys in entry.keys:
            assert not QKeySequence(keys).isEmpty()


def test_a_choice_can_be_made_with_keys_alone(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
) -> None:
    take_in([photo_file])
    entry = window.tray.entry(0)
    qtbot.waitUntil(lambda: bool(entry.spots), timeout=WAIT_MS)
    window.open_step(TRIAL)
    step = window.trial_step
    step.show_view("linked")
    active = entry.trials.active
    for key in (Qt.Key.Key_N, Qt.Key.Key_Plus, Qt.Key.Key_T):
        qtbot.keyClick(step, key)
    assert entry.trials.stamped == active
    assert step.viewport.centre_x == pytest.approx(entry.spots[0].x, abs=0.3)
    qtbot.keyClick(step, Qt.Key.Key_K)
    assert active in [trial.letter for trial in entry.trials.struck]


def test_everything_but_the_picture_can_be_hidden(window: MainWindow) -> None:
    window.open_step(DELIVER)
    bare = FullView(window)
    bare.turn()
    hidden = (window.tray_view, window.rail, window.status, window.deliver_step.panel)
    assert not any(part.isVisible() for part in hidden[:3])
    bare.turn()
    assert all(part.isVisible() for part in hidden)


def test_the_panel_folds_away_and_comes_back(window: MainWindow, qtbot: QtBot) -> None:
    window.open_step(TRIAL)
    bar = window.trial_step.bar
    room = bar.width()
    qtbot.keyClick(window, Qt.Key.Key_F8)
    qtbot.waitUntil(lambda: bar.width() > room + 200, timeout=WAIT_MS)
    window.open_step(DELIVER)
    assert not window.deliver_step.panel.pattern.isVisible()
    qtbot.keyClick(window, Qt.Key.Key_F8)
    assert window.deliver_step.panel.pattern.isVisible()
    window.open_step(TRIAL)
    qtbot.waitUntil(lambda: bar.width() == room, timeout=WAIT_MS)


def test_copied_files_and_pictures_are_taken_in(
    window: MainWindow, qtbot: QtBot, photo_file: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("wamplex.app.window.clipboard.user_pictures_path", lambda: tmp_path / "Pictures")
    clipboard = QGuiApplication.clipboard()
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(photo_file))])
    clipboard.setMimeData(data)
    paste(window.take_in, window.notices)
    qtbot.waitUntil(lambda: len(window.tray.usable) == 1, timeout=WAIT_MS)
    image = QImage(40, 30, QImage.Format.Format_RGB32)
    image.fill(QColor(200, 30, 10))
    clipboard.setImage(image)
    paste(window.take_in, window.notices)
    qtbot.waitUntil(lambda: len(window.tray.usable) == 2, timeout=WAIT_MS)
    (kept,) = (tmp_path / "Pictures").iterdir()
    assert str(kept) in window.notices.text
    assert window.tray.entries[1].pixels == (40, 30)


@pytest.mark.parametrize("step", [TRIAL, FINISH])
def test_tab_goes_through_a_panel_from_top_to_bottom(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path, step: int
) -> None:
    """Also through what was made after the panel: values of a trial, layers."""
    take_in([photo_file])
    window.open_step(step)
    panel: QWidget = (window.trial_step if step == TRIAL else window.finish_step).panel
    reached: list[QWidget] = []
    window.rail.project_button.setFocus()
    for _ in range(60):
        qtbot.keyClick(QApplication.focusWidget() or window, Qt.Key.Key_Tab)
        focused = QApplication.focusWidget()
        if focused is None or focused in reached:
            break
        reached.append(focused)
    places = [w.mapTo(panel, QPoint(0, 0)).y() for w in reached if panel.isAncestorOf(w)]
    assert len(places) > 6
    assert all(after > before - 12 for before, after in pairwise(places))
