"""A thread that works through the latest list of requests; a new list replaces the old one."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Generic, TypeVar

from PySide6.QtCore import QObject, QThread, Signal

from wamplex.app.workers.thread_priority import lower_priority
from wamplex.core.base.errors import user_message
from wamplex.core.base.progress import Progress
from wamplex.core.base.thread_priority import FOR_THE_EYE

Request = TypeVar("Request")


class LatestRequests(QThread, Generic[Request]):
    """Fulfils requests one at a time, in their order; a request no longer wanted is given up."""

    broke = Signal(str)  # a sentence about an error that `make` did not expect

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._wake = threading.Condition()
        self._waiting: list[Request] = []
        self._total = 0
        self._running: Request | None = None
        self._progress = Progress()
        self._paused = False
        self._ending = False

    def request(self, requests: list[Request]) -> None:
        """Fulfil these, in this order; the one under way goes on only if it is among them."""
        with self._wake:
            # What is under way is not wanted again, unless it was told to stop a moment ago.
            under_way = None if self._progress.cancelled else self._running
            self._waiting = [request for request in requests if request != under_way]
            self._total = len(requests)
            if self._running is not None and self._running not in requests:
                self._progress.cancel()
            self._wake.notify()

    def cancel(self) -> None:
        """Drop everything that is not done yet."""
        self.request([])

    def pause(self, paused: bool) -> None:
        """Wait, in the middle of a request if need be, or go on."""
        with self._wake:
            self._paused = paused
            self._progress.pause(paused)
            self._wake.notify()

    @property
    def busy(self) -> bool:
        """Whether there is anything to be done."""
        with self._wake:  # what is taken from the list is under way at once
            return self._running is not None or bool(self._waiting)

    def end(self) -> None:
        """Stop the thread."""
        with self._wake:
            self._ending = True
            self._waiting = []
            self._progress.cancel()
            self._wake.notify()
        self.wait()

    def run(self) -> None:
        """The thread's work."""
        self.begin()
        while True:
            with self._wake:
                self._running = None
                if not self._waiting and not self._ending:
                    self.rest()
                self._wake.wait_for(lambda: (bool(self._waiting) and not self._paused) or self._ending)
                if self._ending:
                    return
                request = self._running = self._waiting.pop(0)
                self._progress = progress = Progress()
                done, total = self._total - len(self._waiting) - 1, self._total
            try:
                self.make(request, done, total, progress)
            except Exception as error:
                self.broke.emit(user_message(error, "There is not enough memory for what is to be shown."))

    def drop_where(self, hopeless: Callable[[Request], bool]) -> None:
        """Forget requests that cannot be fulfilled."""
        with self._wake:
            self._waiting = [request for request in self._waiting if not hopeless(request)]

    def begin(self) -> None:
        """Called once, on the thread: moving what is on the screen comes before adding to it."""
        lower_priority(FOR_THE_EYE)

    def rest(self) -> None:
        """Called on the thread whenever nothing is left to do."""

    def make(self, request: Request, done: int, total: int, progress: Progress) -> None:
        """Do what is wished; ``done`` of ``total`` came before it."""
        raise NotImplementedError
