"""Closes the window on a signal, on a closed terminal and at logout."""

from __future__ import annotations

import os
import signal
import socket
from collections.abc import Callable

from PySide6.QtCore import QObject, QSocketNotifier
from PySide6.QtGui import QGuiApplication

_SIGNALS = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)


class SignalHandler(QObject):
    """Calls back on the UI thread when a signal asks the program to end.

    Python runs a signal's handler between two of its own instructions, of which there may be none for long
    while Qt waits for events; a byte in a socket wakes Qt up.

    Parameters
    ----------
    keep : keeps the work, when the session may end
    end : keeps the work and ends the program with that exit code
    """

    def __init__(self, app: QGuiApplication, keep: Callable[[], None], end: Callable[[int], None]) -> None:
        super().__init__(app)
        self._end = end
        self._asked: int | None = None
        self._read, self._write = socket.socketpair()
        for end_of_pair in (self._read, self._write):
            end_of_pair.setblocking(False)
        self._woken = QSocketNotifier(self._read.fileno(), QSocketNotifier.Type.Read, self)
        self._woken.activated.connect(self._take)
        for number in _SIGNALS:
            signal.signal(number, self._note)
        signal.set_wakeup_fd(self._write.fileno(), warn_on_full_buffer=False)
        app.commitDataRequest.connect(lambda _manager: keep())

    def _note(self, number: int, _frame: object) -> None:
        self._asked = number

    def _take(self) -> None:
        os.read(self._read.fileno(), 64)
        if self._asked is not None:
            number, self._asked = self._asked, None
            self._end(128 + number)
