"""Stops the work of a subcommand when its terminal, its user or the system asks for it."""

from __future__ import annotations

import signal
from collections.abc import Iterator
from contextlib import contextmanager
from types import FrameType

from wamplex.core.progress import Progress

_SIGNALS = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)


class Stopping:
    """Takes the signals that end a program and cancels what is under way, so that nothing is left over.

    Python's own way, an exception wherever the program is, would be lost in the callbacks of libraries.

    Attributes
    ----------
    asked : number of the signal, None until one came
    """

    def __init__(self) -> None:
        self.asked: int | None = None
        self._under_way: list[Progress] = []
        self._before = {number: signal.signal(number, self._stop) for number in _SIGNALS}

    def __enter__(self) -> Stopping:
        return self

    def __exit__(self, *_how: object) -> None:
        for number, handler in self._before.items():
            signal.signal(number, handler)

    @property
    def exit_code(self) -> int:
        """What a shell expects of a program that a signal ended."""
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

    def _stop(self, number: int, _frame: FrameType | None) -> None:
        self.asked = number
        for progress in list(self._under_way):
            progress.cancel()
