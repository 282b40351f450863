"""A thread that works through the latest list of wishes; a newer list replaces the older."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Generic, TypeVar

from PySide6.QtCore import QObject, QThread, Signal

from wamplex.app.workers.politeness import FOR_THE_EYE, stand_back
from wamplex.core.errors import told
from wamplex.core.progress import Progress

Wish = TypeVar("Wish")


class LatestWishes(QThread, Generic[Wish]):
    """Fulfils wishes one at a time, in their order; a wish no longer wanted is given up."""

    broke = Signal(str)  # a sentence about an error that `fulfil` did not expect

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._wake = threading.Condition()
        self._wanted: list[Wish] = []
        self._total = 0
        self._running: Wish | None = None
        self._progress = Progress()
        self._held = False
        self._ending = False

    def want(self, wishes: list[Wish]) -> None:
        """Fulfil these, in this order; the one under way goes on only if it is among them."""
        with self._wake:
            # What is under way is not wanted again, unless it was told to stop a moment ago.
            under_way = None if self._progress.cancelled else self._running
            self._wanted = [wish for wish in wishes if wish != under_way]
            self._total = len(wishes)
            if self._running is not None and self._running not in wishes:
                self._progress.cancel()
            self._wake.notify()

    def cancel(self) -> None:
        """Drop everything that is not done yet."""
        self.want([])

    def hold(self, held: bool) -> None:
        """Wait, in the middle of a wish if need be, or go on."""
        with self._wake:
            self._held = held
            self._progress.pause(held)
            self._wake.notify()

    @property
    def busy(self) -> bool:
        """Whether there is anything to be done."""
        return self._running is not None or bool(self._wanted)

    def end(self) -> None:
        """Stop the thread."""
        with self._wake:
            self._ending = True
            self._wanted = []
            self._progress.cancel()
            self._wake.notify()
        self.wait()

    def run(self) -> None:
        """The thread's work."""
        self.begin()
        while True:
            with self._wake:
                self._running = None
                if not self._wanted and not self._ending:
                    self.rest()
                self._wake.wait_for(lambda: (bool(self._wanted) and not self._held) or self._ending)
                if self._ending:
                    return
                wish = self._running = self._wanted.pop(0)
                self._progress = progress = Progress()
                done, total = self._total - len(self._wanted) - 1, self._total
            try:
                self.fulfil(wish, done, total, progress)
            except Exception as error:
                self.broke.emit(told(error, "There is not enough memory for what is to be shown."))

    def drop_where(self, hopeless: Callable[[Wish], bool]) -> None:
        """Forget wishes that cannot be fulfilled."""
        with self._wake:
            self._wanted = [wish for wish in self._wanted if not hopeless(wish)]

    def begin(self) -> None:
        """Called once, on the thread: moving what is on the screen comes before adding to it."""
        stand_back(FOR_THE_EYE)

    def rest(self) -> None:
        """Called on the thread whenever nothing is left to do."""

    def fulfil(self, wish: Wish, done: int, total: int, progress: Progress) -> None:
        """Do what is wished; ``done`` of ``total`` came before it."""
        raise NotImplementedError
