"""Stops a subcommand on a signal, a closed terminal or logout."""

from __future__ import annotations

import os
import signal
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from types import FrameType

from wamplex.core.base.progress import Progress

_SIGNALS = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)
_OVER = b"\0"


class Stopping:
    """Takes the signals that end a program and cancels what is under way, so that nothing is left over.

    Python's own way, an exception wherever the program is, would be lost in the callbacks of libraries. And
    Python runs a signal's handler between two of its own instructions on its first thread, of which there are
    none as long as libvips writes a file there: so another thread hears of the signal as well.

    Attributes
    ----------
    asked : number of the signal, None until one came
    """

    def __init__(self) -> None:
        self.asked: int | None = None
        self._under_way: list[Progress] = []
        self._before = {number: signal.signal(number, self._stop) for number in _SIGNALS}
        self._heard, self._signalled = os.pipe()
        os.set_blocking(self._signalled, False)
        self._signalled_before = signal.set_wakeup_fd(self._signalled, warn_on_full_buffer=False)
        self._hearing = threading.Thread(target=self._hear, daemon=True)
        self._hearing.start()

    def __enter__(self) -> Stopping:
        return self

    def __exit__(self, *_how: object) -> None:
        signal.set_wakeup_fd(self._signalled_before)
        for number, handler in self._before.items():
            signal.signal(number, handler)
        os.write(self._signalled, _OVER)
        self._hearing.join()
        os.close(self._signalled)
        os.close(self._heard)

    @property
    def exit_code(self) -> int:
        """Exit status after a signal."""
        return 128 + (self.asked or 0)

    @contextmanager
    def cancels(self, progress: Progress) -> Iterator[None]:
        """While inside, a signal cancels this work."""
        self._under_way.append(progress)
        if self.asked is not None:
            progress.cancel()
        try:
            yield
        finally:
            self._under_way.remove(progress)

    def _hear(self) -> None:
        while (signal_byte := os.read(self._heard, 1)) != _OVER:
            if signal_byte[0] in _SIGNALS:
                self._stop(signal_byte[0])

    def _stop(self, number: int, _frame: FrameType | None = None) -> None:
        self.asked = number
        for progress in list(self._under_way):
            progress.cancel()
