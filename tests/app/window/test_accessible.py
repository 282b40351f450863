"""The whole job without a mouse; everything named, what has the focus seen, all words legible."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PIL import Image
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QAccessible
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QFileDialog,
    QLineEdit,
    QScrollBar,
    QTableWidget,
    QWidget,
)
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS

from wamplex.app.shared import theme
from wamplex.app.shared.focus_ring import FocusRing
from wamplex.app.window.main_window import MainWindow
from wamplex.core.demo import demo_pictures

TakeIn = Callable[[list[Path]], None]
CONTROLS = (
    QAbstractButton,
    QLineEdit,
    QAbstractSpinBox,
    QComboBox,
    QAbstractSlider,
    QAbstractItemView,
)
# What the looks set words in, on what.
LEGIBLE = {
    "INK": ("PANEL", "CARD", "BAR", "FIELD", "MOSS_TINT", "AMBER_TINT", "RULE"),
    "SOFT": ("PANEL", "CARD", "BAR", "FIELD", "MOSS_TINT", "AMBER_TINT"),
    "MOSS": ("PANEL", "CARD", "BAR", "MOSS_TINT"),
    "AMBER_INK": ("PANEL", "CARD", "BAR", "AMBER_TINT"),
    "WHITE": ("BENCH",),
    "ON_INK": ("MOSS", "INK"),
}


def unnamed(within: QWidget) -> list[str]:
    """Controls in view that a screen reader would have no word for."""
    found = []
    for widget in within.findChildren(QWidget):
        by_key = widget.focusPolicy().value & Qt.FocusPolicy.TabFocus.value
        reached = by_key or isinstance(widget, CONTROLS)
        inner = isinstance(widget.parent(), QAbstractSpinBox | QComboBox | QTableWidget)  # Qt's own
        if not widget.isVisible() or not reached or inner or isinstance(widget, QScrollBar):
            continue
        interface = QAccessible.queryAccessibleInterface(widget)
        if interface is None or not interface.text(QAccessible.Text.Name):
            found.append(f"{type(widget).__name__} in {type(widget.parent()).__name__}")
    return found


def steps(window: MainWindow) -> Iterator[str]:
    """Each step, and each view of the trials."""
    for number in range(5):
        window.open_step(number)
        QApplication.processEvents()
        yield f"step {number + 1}"
    window.open_step(2)
    for view in ("sheet", "linked", "curtain", "blink", "difference"):
        window.trial_step.show_view(view)
        QApplication.processEvents()
        yield view


def test_every_control_has_a_name(window: MainWindow, take_in: TakeIn, qtbot: QtBot) -> None:
    take_in([demo_pictures()[0], demo_pictures()[1]])
    entry = window.tray.entries[0]
    qtbot.waitUntil(lambda: entry.suggested is not None, timeout=WAIT_MS)
    for place in steps(window):
        assert unnamed(window) == [], place
    dialogs = (
        window.colours.open(),
        window.dialogs.networks(),
        window.open_recipes(),
        window.dialogs.help(),
        window.dialogs.preferences(),
        window.dialogs.about(),
        window.open_test(0),
    )
    for dialog in dialogs:
        assert unnamed(dialog) == []
        dialog.close()


def test_what_the_keyboard_has_reached_is_seen(window: MainWindow, take_in: TakeIn, qtbot: QtBot) -> None:
    take_in([demo_pictures()[0]])
    window.activateWindow()
    for place in steps(window):
        seen: list[QWidget] = []
        window.rail.setFocus(Qt.FocusReason.TabFocusReason)
        window.focusNextChild()
        while (focused := QApplication.focusWidget()) not in seen:
            assert focused is not None
            seen.append(focused)
            ring = window.findChild(FocusRing)
            assert ring is not None, place
            assert ring.isVisible(), f"{place}: {focused}"
            around = ring.geometry()
            assert around.contains(focused.mapTo(window, focused.visibleRegion().boundingRect().center()))
            qtbot.keyClick(focused, Qt.Key.Key_Tab)
        assert len(seen) > 12
    qtbot.mouseClick(window.trial_step.bar.zoom_buttons.button_for(1.0), Qt.MouseButton.LeftButton)
    assert not window.findChild(FocusRing).isVisible()  # a mouse shows by itself where it is


def luminance(colour: str) -> float:
    """Relative luminance, WCAG 2.1."""
    shares = (int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5))
    linear = [s / 12.92 if s <= 0.03928 else ((s + 0.055) / 1.055) ** 2.4 for s in shares]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


@pytest.mark.parametrize("tokens", [{}, theme.DIMMED], ids=["paper", "dimmed"])
@pytest.mark.parametrize(("words", "ground"), [(w, g) for w, grounds in LEGIBLE.items() for g in grounds])
def test_words_stand_out_from_their_ground(words: str, ground: str, tokens: dict[str, str]) -> None:
    """At least 4.5 to 1: success criterion 1.4.3 of WCAG 2.1."""
    colours = [tokens.get(name, getattr(theme, name)) for name in (words, ground)]
    light, dark = sorted((luminance(colour) for colour in colours), reverse=True)
    assert (light + 0.05) / (dark + 0.05) >= 4.5


def tab_to(qtbot: QtBot, name: str, kind: type[QWidget] = QWidget) -> QWidget:
    """Press Tab until a control whose name begins so has the focus."""
    reached = []
    for _ in range(120):
        focused = QApplication.focusWidget()
        assert focused is not None
        interface = QAccessible.queryAccessibleInterface(focused)
        reached.append("" if interface is None else interface.text(QAccessible.Text.Name))
        if isinstance(focused, kind) and reached[-1].startswith(name):
            return focused
        qtbot.keyClick(focused, Qt.Key.Key_Tab)
    raise AssertionError(f"{name} cannot be reached, only {reached}")


def choose(qtbot: QtBot, group: str, wanted: str) -> None:
    """Go to a row of buttons with Tab, along it with the arrow keys, and press one."""
    focused: QWidget | None = tab_to(qtbot, group)
    for _ in range(12):
        assert focused is not None
        if focused.accessibleName() == f"{group}{wanted}":
            qtbot.keyClick(focused, Qt.Key.Key_Space)
            return
        qtbot.keyClick(focused, Qt.Key.Key_Right)
        focused = QApplication.focusWidget()
    raise AssertionError(f"{wanted} cannot be reached")


def test_the_whole_job_goes_without_a_mouse(
    window: MainWindow, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """From opening the demo's file to the file that is delivered."""
    picture = tmp_path / "carved-head.png"
    picture.write_bytes(demo_pictures()[0].read_bytes())
    window.activateWindow()
    window.setFocus()

    def type_name() -> None:
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, QFileDialog)
        field = dialog.findChild(QLineEdit)
        qtbot.keyClicks(field, str(picture))
        qtbot.keyClick(field, Qt.Key.Key_Return)

    QTimer.singleShot(300, type_name)
    qtbot.keyClick(window, Qt.Key.Key_O, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: len(window.tray.usable) == 1, timeout=WAIT_MS)
    entry = window.tray.entries[0]
    qtbot.waitUntil(lambda: entry.suggested is not None, timeout=WAIT_MS)

    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    window.setFocus()
    qtbot.keyClick(window, Qt.Key.Key_2)
    field = tab_to(qtbot, "Factor", QLineEdit)
    assert isinstance(field, QLineEdit)
    field.selectAll()
    qtbot.keyClicks(field, "2")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert entry.size is not None
    assert entry.size.factor == pytest.approx(2)

    window.setFocus()
    qtbot.keyClick(window, Qt.Key.Key_3)
    choose(qtbot, "View: ", "Linked")
    assert window.trial_step.view == "linked"
    active = entry.trials.active
    qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_T)
    assert entry.trials.stamped == active

    qtbot.keyClick(QApplication.focusWidget(), Qt.Key.Key_4)
    qtbot.keyClick(tab_to(qtbot, "Grain"), Qt.Key.Key_Right)

    window.setFocus()
    qtbot.keyClick(window, Qt.Key.Key_5)
    choose(qtbot, "Format: ", "PNG")
    qtbot.keyClick(tab_to(qtbot, "Deliver"), Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: bool(window.jobs.rows) and not window.jobs.open, timeout=WAIT_MS)
    (row,) = window.jobs.rows
    assert row.result is not None
    assert row.result.suffix == ".png"
    with Image.open(row.result) as made, Image.open(picture) as source:
        assert made.size == (2 * source.width, 2 * source.height)
