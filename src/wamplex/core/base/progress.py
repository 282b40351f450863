"""Progress of long work: reporting, pausing and cancelling."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from wamplex.core.base.errors import Cancelled

Listener = Callable[[float, str], None]


class Progress:
    """Fraction done and words for it, and a flag to stop; safe to share between threads.

    Parameters
    ----------
    listener : called with (fraction in 0..1, words) from the working thread
    """

    def __init__(self, listener: Listener | None = None) -> None:
        self._listener = listener
        self._cancelled = threading.Event()
        self._paused = threading.Event()
        self._interrupts: list[Callable[[], None]] = []
        # A signal may cancel on the very thread that is inside of `interruptible`.
        self._lock = threading.RLock()

    def report(self, fraction: float, text: str) -> None:
        """Tell the listener how far the work is.

        Parameters
        ----------
        fraction : 0 to 1
        text : what is being done, for the user
        """
        if self._listener is not None:
            self._listener(fraction, text)

    def cancel(self) -> None:
        """Ask the work to stop; interrupts what registered itself with `interruptible`."""
        self._cancelled.set()
        with self._lock:
            for interrupt in self._interrupts:
                interrupt()

    @property
    def cancelled(self) -> bool:
        """Whether the work was asked to stop."""
        return self._cancelled.is_set()

    @property
    def paused(self) -> bool:
        """Whether the work is held."""
        return self._paused.is_set()

    def check(self) -> None:
        """Raise `Cancelled` when asked to stop; wait here while paused."""
        while self._paused.is_set() and not self._cancelled.is_set():
            self._cancelled.wait(0.05)
        if self._cancelled.is_set():
            raise Cancelled

    def pause(self, paused: bool) -> None:
        """Hold the work at its next check, or let it go on.

        Parameters
        ----------
        paused : True to pause, False to resume
        """
        if paused:
            self._paused.set()
        else:
            self._paused.clear()

    @contextmanager
    def interruptible(self, interrupt: Callable[[], None]) -> Iterator[None]:
        """While inside, cancelling calls ``interrupt`` (from the cancelling thread).

        Parameters
        ----------
        interrupt : called when the work is cancelled meanwhile
        """
        with self._lock:
            self._interrupts.append(interrupt)
        try:
            self.check()
            yield
        finally:
            with self._lock:
                self._interrupts.remove(interrupt)
