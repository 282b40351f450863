"""The real window, offscreen."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication, QMessageBox
from pytestqt.qtbot import QtBot
from tests.app.making import Here, MeasuredHere
from tests.app.watching import WAIT_MS

from wamplex.app.shared.theme import apply_theme, deferred_stylesheet
from wamplex.app.window import main_window, worker_set
from wamplex.app.window.main_window import MainWindow


@pytest.fixture(scope="session")
def themed(qapp: QApplication) -> QApplication:
    """The application with its looks; once, as putting them on goes through all widgets there are."""
    apply_theme(qapp)
    return qapp


@pytest.fixture
def window(themed: QApplication, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> Iterator[MainWindow]:
    # A test that fails while files are being written must end, too.
    yes = QMessageBox.StandardButton.Yes
    monkeypatch.setattr(QMessageBox, "question", lambda *_: yes)
    monkeypatch.setattr(main_window, "DeliveryClient", Here)
    monkeypatch.setattr(worker_set, "AssessmentClient", MeasuredHere)
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)  # what is left of earlier windows
    with deferred_stylesheet(themed):
        made = MainWindow()
    qtbot.addWidget(made)
    made.show()
    qtbot.waitExposed(made)
    made.trial_step.show_view("linked")
    yield made
    made.confirm_close = lambda: True  # type: ignore[method-assign]  # whatever the test answers
    made.close()


@pytest.fixture
def take_in(window: MainWindow, qtbot: QtBot) -> Callable[[list[Path]], None]:
    """Add files and wait until all have been looked at."""

    def add(paths: list[Path]) -> None:
        window.take_in(paths)
        qtbot.waitUntil(lambda: all(e.usable or e.error for e in window.tray.entries), timeout=WAIT_MS)

    return add
