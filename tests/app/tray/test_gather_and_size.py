"""Taking pictures in, and choosing how large."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PIL import Image
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtWidgets import QAbstractButton, QComboBox, QLineEdit, QSpinBox
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS

from wamplex.app.window.main_window import ASSESS, DELIVER, FINISH, SIZE, TRIAL, MainWindow

TakeIn = Callable[[list[Path]], None]


def enter(qtbot: QtBot, field: QLineEdit, text: str) -> None:
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, Qt.Key.Key_Return)


def test_a_bad_file_says_so_and_the_rest_goes_on(window: MainWindow, take_in: TakeIn, photo_file: Path) -> None:
    bad = photo_file.with_name("cut.png")
    bad.write_bytes(photo_file.read_bytes()[:900])
    text = photo_file.with_name("letter.jpg")
    text.write_text("Dear puppet,")
    take_in([bad, photo_file, text])
    said = [window.tray_view.text_for(number) for number in range(3)]
    assert "the rest is missing" in said[0]
    assert said[1] == "150 × 120 · PNG"
    assert "is not a picture in a format that can be opened" in said[2]
    assert window.tray.current is window.tray.entries[1]


def test_dropped_files_and_folders_are_taken_in(window: MainWindow, qtbot: QtBot, photo_file: Path) -> None:
    Image.open(photo_file).save(photo_file.with_name("second.jpg"))
    mime = QMimeData()
    mime.setUrls([QUrl.fromLocalFile(str(photo_file.parent))])
    copy, left, none = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    window.dropEvent(QDropEvent(QPointF(5, 5), copy, mime, left, none))
    qtbot.waitUntil(lambda: len(window.tray.usable) == 2, timeout=WAIT_MS)
    assert window.tray_view.text_for(1) == "150 × 120 · JPEG"


def test_the_same_file_is_taken_in_once(window: MainWindow, take_in: TakeIn, photo_file: Path) -> None:
    take_in([photo_file])
    take_in([photo_file])
    assert len(window.tray.entries) == 1


def test_fields_follow_each_other(window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path) -> None:
    window.open_step(SIZE)
    take_in([photo_file])
    panel = window.size_step.panel
    enter(qtbot, panel.width_px, "450")
    assert (panel.factor.text(), panel.height_px.text()) == ("3.00", "360")
    enter(qtbot, panel.density, "254")
    assert (panel.width_px.text(), panel.print_width.text()) == ("450", "4.50")
    enter(qtbot, panel.print_height, "6")
    assert (panel.height_px.text(), panel.factor.text()) == ("600", "5.00")
    panel.units.textActivated.emit("in")
    assert panel.print_width.text() == "2.95"
    assert "5× gives 750 × 600 px: 2.95 × 2.36 in at 254 ppi" in window.size_step.table.headline


def test_impossible_sizes_are_refused_in_words(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
) -> None:
    window.open_step(SIZE)
    take_in([photo_file])
    panel = window.size_step.panel
    enter(qtbot, panel.width_px, "99999")
    assert "outside 0.25 to 8" in panel.refusal_text
    assert window.tray.current is not None
    assert window.tray.current.size is not None
    assert window.tray.current.size.factor == 4.0
    enter(qtbot, panel.width_px, "300")
    assert panel.refusal_text == ""


def test_number_keys_open_the_steps(window: MainWindow, qtbot: QtBot) -> None:
    for key, step, widget in (
        (Qt.Key.Key_3, TRIAL, window.trial_step),
        (Qt.Key.Key_4, FINISH, window.finish_step),
        (Qt.Key.Key_5, DELIVER, window.deliver_step),
        (Qt.Key.Key_2, SIZE, window.size_step),
        (Qt.Key.Key_1, ASSESS, window.assess_step),
    ):
        qtbot.keyClick(window, key)
        assert widget.isVisible()
        assert window.rail.buttons[step].isChecked()


@pytest.mark.parametrize("step", [ASSESS, SIZE, TRIAL, DELIVER])
def test_every_control_explains_itself(window: MainWindow, take_in: TakeIn, photo_file: Path, step: int) -> None:
    take_in([photo_file])
    window.open_step(step)
    for kind in (QAbstractButton, QLineEdit, QComboBox, QSpinBox):
        for control in window.findChildren(kind):
            if control.isVisible() and not control.objectName().startswith("qt_"):
                assert control.toolTip(), control.accessibleName()
                assert control.accessibleName() or control.property("text")
