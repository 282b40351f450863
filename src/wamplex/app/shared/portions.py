"""Hands on what comes from another thread: at once while little comes, in small portions when much does."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

_EVERY_MS = 20
_PORTION_S = 0.012


class Portions(QObject):
    """Calls a receiver for each thing that is put in, in their order, and leaves the window time to answer.

    Of a thousand pictures that come within half a minute, each is told to all parts of the window.
    """

    def __init__(self, receiver: Callable[..., None], parent: QObject) -> None:
        super().__init__(parent)
        self._receiver = receiver
        self._waiting: deque[tuple[object, ...]] = deque()
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(_EVERY_MS)
        self._pause.timeout.connect(self._hand_on)

    def put(self, *things: object) -> None:
        """Hand these on, now or soon."""
        self._waiting.append(things)
        if not self._pause.isActive():
            self._hand_on()

    def _hand_on(self) -> None:
        if not self._waiting:
            return
        end = time.monotonic() + _PORTION_S
        while True:  # at least one, however slow things are
            self._receiver(*self._waiting.popleft())
            if not self._waiting or time.monotonic() >= end:
                break
        self._pause.start()
