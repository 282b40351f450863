"""The window on a small screen: bars go on in further rows, the tray folds away."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QMargins, QPoint
from PySide6.QtWidgets import QApplication, QPushButton, QWidget
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS, assert_stays

from wamplex.app.shared.wrapping_row import WrappingRow
from wamplex.app.window.main_window import TRIAL, MainWindow

TakeIn = Callable[[list[Path]], None]


def test_all_steps_fit_on_1024_by_700_with_a_long_status(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
) -> None:
    take_in([photo_file])
    qtbot.waitUntil(lambda: window.tray.entry(0).suggested is not None, timeout=WAIT_MS)
    window.resize(1024, 700)
    for step in range(5):
        window.open_step(step)
        window.status.show_idle("A sentence that is far longer than what there is room for. " * 4)
        assert_stays(qtbot, lambda: (window.width(), window.height()) == (1024, 700), 30)
    assert window.tray_view.isHidden()
    window.resize(1280, 800)
    qtbot.waitUntil(lambda: not window.tray_view.isHidden(), timeout=WAIT_MS)


def test_what_has_no_room_goes_on_in_the_next_row(qtbot: QtBot) -> None:
    holder = QWidget()
    qtbot.addWidget(holder)
    row = WrappingRow(spacing=4, height=30, margins=QMargins(5, 0, 5, 0))
    buttons = [QPushButton("x") for _ in range(4)]
    for made in buttons:
        made.setFixedSize(100, 20)
        row.add(made)
        if made is buttons[0]:
            row.add(None)
    holder.setLayout(row)
    assert (row.heightForWidth(430), row.heightForWidth(400), row.heightForWidth(120)) == (30, 60, 120)
    holder.resize(430, 30)
    holder.show()
    assert len({made.y() for made in buttons}) == 1
    top = buttons[0].y()
    assert buttons[3].geometry().right() + 1 == 425  # after the stretch, at the right
    holder.resize(330, 60)
    qtbot.waitUntil(lambda: buttons[3].y() == top + 30, timeout=WAIT_MS)
    assert buttons[3].x() == 5


def test_four_trials_may_stand_in_two_rows(
    window: MainWindow, take_in: Callable[[list[Path]], None], photo_file: Path
) -> None:
    take_in([photo_file])
    window.open_step(TRIAL)
    step = window.trial_step
    step.show_view("linked")
    window.resize(1280, 800)
    step.refresh()
    QApplication.processEvents()
    assert step.bar.rows_button.isVisible()
    in_a_row = step.linked.panes["A"].width()
    step.bar.rows_button.click()
    QApplication.processEvents()
    panes = step.linked.panes
    assert panes["A"].width() > 1.8 * in_a_row
    corners = {key: (pane.mapTo(window, QPoint(0, 0))) for key, pane in panes.items()}
    assert corners["A"].y() == corners["B"].y() < corners["C"].y() == corners["D"].y()
    step.bar.rows_button.click()
    assert len({pane.mapTo(window, QPoint(0, 0)).y() for pane in step.linked.panes.values()}) == 1
    window.tray.set_trials(0, window.tray.entries[0].trials.strike("A"))
    assert not step.bar.rows_button.isVisible()
