"""The status line while work goes on."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QApplication, QProgressBar
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS, assert_stays

from wamplex.app.window.main_window import MainWindow


class _LaidOut(QObject):
    """How often a widget is laid out anew."""

    times = 0

    def eventFilter(self, _watched: QObject, event: QEvent) -> bool:
        self.times += event.type() == QEvent.Type.LayoutRequest
        return False

    def rests(self, qtbot: QtBot) -> bool:
        """Whether nothing is laid out for a while."""
        before = self.times
        qtbot.wait(30)
        return self.times == before


def test_work_does_not_lay_the_window_out_anew(window: MainWindow, qtbot: QtBot) -> None:
    status, laid_out = window.status, _LaidOut()
    status.installEventFilter(laid_out)
    qtbot.waitUntil(lambda: laid_out.rests(qtbot), timeout=WAIT_MS)
    assert not status.findChild(QProgressBar).isVisible()
    laid_out.times = 0
    for place in range(1, 30):
        status.show_work(place / 30, f"Rendering {place + 1} of 30, a word longer each time" + " word" * place)
        QApplication.processEvents()
    assert status.text.startswith("Rendering 30 of 30")
    assert status.findChild(QProgressBar).isVisible()
    assert laid_out.times == 0


def test_the_bar_stays_for_a_moment_when_work_has_ended(window: MainWindow, qtbot: QtBot) -> None:
    bar = window.status.findChild(QProgressBar)
    window.status.show_work(0.5, "Rendering 1 of 2")
    window.status.show_idle("Ready")
    assert window.status.text == "Ready"
    assert bar.isVisible()
    window.status.show_work(0.5, "Rendering 1 of 2")
    assert_stays(qtbot, bar.isVisible, 500)
    window.status.show_idle("Ready")
    qtbot.waitUntil(lambda: not bar.isVisible(), timeout=WAIT_MS)
