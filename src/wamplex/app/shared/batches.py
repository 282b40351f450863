"""Applies many updates in small batches, and few updates at once."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

_EVERY_MS = 16
_PORTION_S = 0.004


class BatchedUpdates(QObject):
    """Does what is put in, in its order, and leaves the window time to answer.

    With a thousand new pictures in half a minute, every part of the window is updated for each.
    """

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._waiting: deque[Callable[[], None]] = deque()
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(_EVERY_MS)
        self._pause.timeout.connect(self._go_on)

    @property
    def resting(self) -> bool:
        """Whether the next update is applied at once."""
        return not self._pause.isActive()

    def put(self, work: Callable[[], None]) -> None:
        """Do this, now or soon."""
        self._waiting.append(work)
        if self.resting:
            self._go_on()

    def clear(self) -> None:
        """Leave out what still waits."""
        self._waiting.clear()

    def finish(self) -> None:
        """Do at once what still waits."""
        while self._waiting:
            self._waiting.popleft()()

    def _go_on(self) -> None:
        if not self._waiting:
            return
        end = time.monotonic() + _PORTION_S
        while True:  # at least one, however slow things are
            self._waiting.popleft()()
            if not self._waiting or time.monotonic() >= end:
                break
        self._pause.start()
