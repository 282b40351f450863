"""Preferences count at once and at the next start; what was stamped orders the trials that are offered."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtGui import QHelpEvent
from PySide6.QtWidgets import QApplication, QWhatsThis
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS

from wamplex.app.shared import theme
from wamplex.app.window.main_window import TRIAL, MainWindow
from wamplex.core.model.settings import load_settings
from wamplex.core.model.source import Source
from wamplex.core.workflow.orders.stamp_history import load_stamp_history, remember_choice

TakeIn = Callable[[list[Path]], None]


def measured(window: MainWindow, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: all(e.suggested is not None for e in window.tray.entries), timeout=WAIT_MS)


def test_the_light_changes_at_once_and_stays(window: MainWindow, qtbot: QtBot) -> None:
    light = window.grab().toImage()
    dialog = window.dialogs.preferences()
    dialog.light.button_for(True).click()
    try:
        assert load_settings().dimmed
        assert theme.DIMMED["PANEL"] == theme.PANEL
        dark = window.grab().toImage()
        assert dark.pixelColor(3, 3).lightness() < light.pixelColor(3, 3).lightness() - 100
    finally:
        dialog.light.button_for(False).click()
    assert theme.DIMMED["PANEL"] != theme.PANEL
    dialog.close()


def test_new_pictures_begin_as_preferred(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path, tmp_path: Path
) -> None:
    dialog = window.dialogs.preferences()
    dialog.paper.setCurrentIndex(dialog.paper.findData("A4"))
    dialog.paper.activated.emit(dialog.paper.currentIndex())
    dialog.density.setText("100")
    dialog.density.editingFinished.emit()
    dialog.units.button_for("in").click()
    dialog.memory.button_for(1.0).click()
    take_in([photo_file])
    first = window.tray.entries[0]
    assert first.sheet is not None
    assert (first.sheet.width_mm, first.sheet.height_mm) == (297, 210)  # it lies as the picture does
    assert first.decisions.density_ppi == 100
    assert window.size_step.panel.units.currentText() == "in"
    window.tray.set_trials(0, first.trials.strike("A").strike("B"))
    dialog.keep_trials()
    other = tmp_path / "other.png"
    Image.fromarray(np.full((90, 120, 3), 99, np.uint8)).save(other)
    take_in([other])
    assert [t.upscaler_key for t in window.tray.entries[1].trials.rows][:2] == ["lanczos", "vellum"]
    dialog.usual_trials()
    assert window.tray.entries[1].trials.rows[0].upscaler_key == "bicubic"
    again = MainWindow()
    assert again.size_step.panel.units.currentText() == "in"
    again.close()
    dialog.close()


def test_impossible_values_are_said_and_not_kept(window: MainWindow) -> None:
    dialog = window.dialogs.preferences()
    dialog.density.setText("99999")
    dialog.density.editingFinished.emit()
    assert "first_density_ppi" in dialog.text or "density" in dialog.text
    assert load_settings().first_density_ppi == 300
    dialog.threads.setText("100000")
    dialog.threads.editingFinished.emit()
    assert "threads are outside" in dialog.text
    assert load_settings().threads == 0
    dialog.keep_trials()
    assert "no picture" in dialog.text
    dialog.close()


def test_stamps_are_remembered_and_order_what_is_offered(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path, tmp_path: Path
) -> None:
    take_in([photo_file])
    measured(window, qtbot)
    entry = window.tray.entries[0]
    window.tray.set_trials(0, entry.trials.stamp("C"))
    (choice,) = load_stamp_history().choices
    assert choice.upscaler == "lanczos"
    for number in range(3):
        file = tmp_path / f"{number}"
        file.write_bytes(bytes(number + 1))
        remember_choice(Source.of(file), choice.kind, "contour")
    dialog = window.dialogs.preferences()
    assert "Contour, 3 of 4" in dialog.text
    second = tmp_path / "second.png"
    second.write_bytes(photo_file.read_bytes())
    take_in([second])
    measured(window, qtbot)
    offered = window.tray.entries[1].trials
    assert [t.upscaler_key for t in offered.rows[:2]] == ["contour", "lanczos"]
    assert offered.rows[0].reason == f"of 4 {choice.kind} you chose Contour 3 times"
    dialog.remembers.click()
    assert window.tray.entries[1].trials.rows[0].upscaler_key == "bicubic"
    window.tray.set_trials(1, window.tray.entries[1].trials.stamp("B"))
    assert len(load_stamp_history().choices) == 4  # switched off, nothing more is kept
    dialog.forget()
    assert load_stamp_history().choices == ()
    assert "Nothing yet" in dialog.text
    dialog.close()


def test_a_blind_choice_is_remembered_as_one(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
) -> None:
    take_in([photo_file])
    measured(window, qtbot)
    window.open_step(TRIAL)
    step = window.trial_step
    step.hide_names(True)
    step.panel.stamp_asked.emit("D")
    (choice,) = load_stamp_history().choices
    assert (choice.upscaler, choice.blind) == ("vellum", True)


def test_whatever_has_a_tip_says_what_it_is(window: MainWindow) -> None:
    asked = window.rail.buttons[2]
    window.dialogs.what()
    assert QWhatsThis.inWhatsThisMode()
    event = QHelpEvent(QEvent.Type.QueryWhatsThis, QPoint(2, 2), asked.mapToGlobal(QPoint(2, 2)))
    QApplication.sendEvent(asked, event)
    assert event.isAccepted()
    QApplication.sendEvent(asked, QHelpEvent(QEvent.Type.WhatsThis, QPoint(2, 2), QPoint(9, 9)))
    shown = [w for w in QApplication.topLevelWidgets() if w.inherits("QWhatsThat") and w.isVisible()]
    assert len(shown) == 1
    QWhatsThis.hideText()
    QWhatsThis.leaveWhatsThisMode()
    again = QHelpEvent(QEvent.Type.QueryWhatsThis, QPoint(2, 2), QPoint(9, 9))
    QApplication.sendEvent(asked, again)
    assert not again.isAccepted()  # nothing is watched for longer than it is asked


def test_about_tells_versions_licences_and_cards(window: MainWindow) -> None:
    dialog = window.dialogs.about()
    assert "Apache License 2.0" in dialog.text.toPlainText()
    assert "onnxruntime" in dialog.text.toPlainText()
    dialog.texts.setCurrentIndex(dialog.texts.findText("tessera", Qt.MatchFlag.MatchContains))
    dialog.texts.activated.emit(dialog.texts.currentIndex())
    assert "Tessera" in dialog.text.toPlainText()
    dialog.close()


@pytest.mark.parametrize("percent", [100, 130])
def test_words_are_larger_from_the_next_start_on(
    percent: int, monkeypatch: pytest.MonkeyPatch, window: MainWindow
) -> None:
    dialog = window.dialogs.preferences()
    dialog.sizes.button_for(percent).click()
    assert load_settings().size_percent == percent
    dialog.close()
