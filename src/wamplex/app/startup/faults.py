"""Handles faults of the program itself: saves the work and shows a message."""

from __future__ import annotations

import sys
import threading
import traceback
from types import TracebackType

from PySide6.QtCore import QObject, Signal

from wamplex.app.window.main_window import MainWindow
from wamplex.core.base.errors import user_message

_NO_MEMORY = "There is not enough memory for this. Close other programs, or other pictures."


class FaultHook(QObject):
    """Takes the place of Python's own hooks, which print to a terminal that nobody sees."""

    happened = Signal(str)

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self._window = window
        self.happened.connect(self._tell)

    def install(self) -> None:
        """From now on, for all threads."""
        sys.excepthook = self._caught
        threading.excepthook = lambda found: self._caught(found.exc_type, found.exc_value, found.exc_traceback)

    def _caught(self, kind: type[BaseException], error: BaseException | None, trace: TracebackType | None) -> None:
        if error is None or not issubclass(kind, Exception):
            sys.__excepthook__(kind, error or kind(), trace)
            return
        assert isinstance(error, Exception)
        # Python keeps the last trace, and with it a painter at work: nothing can be painted any more then.
        traceback.clear_frames(trace)
        # Through a signal: it may have happened on any thread.
        self.happened.emit(user_message(error, _NO_MEMORY))

    def _tell(self, sentence: str) -> None:
        self._window.project.save_for_recovery()
        self._window.notices.warn(sentence)
