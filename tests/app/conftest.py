"""The real window, offscreen."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from wamplex.app.theme import apply_theme
from wamplex.app.views.main_window import MainWindow

WAIT_MS = 30_000


@pytest.fixture
def window(qtbot: QtBot, qapp: QApplication) -> Iterator[MainWindow]:
    apply_theme(qapp)
    made = MainWindow()
    qtbot.addWidget(made)
    made.show()
    qtbot.waitExposed(made)
    yield made
    made.confirm_close = lambda: True  # type: ignore[method-assign]
    made.close()


@pytest.fixture
def take_in(window: MainWindow, qtbot: QtBot) -> Callable[[list[Path]], None]:
    """Add files and wait until all have been looked at."""

    def add(paths: list[Path]) -> None:
        window.take_in(paths)
        qtbot.waitUntil(lambda: all(e.usable or e.error for e in window.tray.entries), timeout=WAIT_MS)

    return add
