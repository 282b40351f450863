"""Delivers the jobs one after the other, on a thread of its own."""

from __future__ import annotations

import threading
from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QObject, QThread, Signal

from wamplex.app.workers.thread_priority import lower_priority
from wamplex.core.errors import Cancelled
from wamplex.core.jobs.job import Job, State
from wamplex.core.jobs.journal import Journal
from wamplex.core.jobs.run import CANCELLED_WORDS, failure_words, run
from wamplex.core.progress import Progress


@dataclass(frozen=True)
class Order:
    """A job, by the number of its row in the list."""

    number: int
    job: Job


class DeliveryThread(QThread):
    """Works through orders; one that fails does not stop the others."""

    started_job = Signal(int)
    progressed = Signal(int, float, str)
    delivered = Signal(int, object)  # Delivered
    failed = Signal(int, str)
    cancelled = Signal(int)

    def __init__(self, journal: Journal, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._journal = journal
        self._wake = threading.Condition()
        self._orders: list[Order] = []
        self._progress: Progress | None = None
        self._running: int | None = None
        self._paused = False
        self._ending = False

    def put(self, order: Order) -> None:
        """Add an order at the end."""
        with self._wake:
            self._orders.append(order)
            self._wake.notify()

    def put_first(self, number: int) -> None:
        """Do a waiting order next."""
        with self._wake:
            self._orders.sort(key=lambda order: order.number != number)  # the others stay as they are

    def pause(self, paused: bool) -> None:
        """Hold the work, or let it go on."""
        with self._wake:
            self._paused = paused
            if self._progress is not None:
                self._progress.pause(paused)

    def cancel(self, number: int) -> None:
        """Take back one order, whether it waits or runs."""
        with self._wake:
            waiting = [o for o in self._orders if o.number == number]
            self._orders = [o for o in self._orders if o.number != number]
            if self._running == number and self._progress is not None:
                self._progress.cancel()
        for order in waiting:
            self._journal.update(order.job.number, State.CANCELLED, CANCELLED_WORDS)
            self.cancelled.emit(number)

    def end(self, *, keep_orders: bool = False) -> None:
        """Stop the thread; what runs is cancelled and leaves no file.

        Parameters
        ----------
        keep_orders : whether what runs and what waits stays wanted, for the next start
        """
        if keep_orders:
            self._journal.hold()
        with self._wake:
            self._ending = True
            waiting, self._orders = self._orders, []
            if self._progress is not None:
                self._progress.cancel()
            self._wake.notify()
        self.wait()
        for order in waiting:
            self._journal.update(order.job.number, State.CANCELLED, CANCELLED_WORDS)

    def run(self) -> None:
        """The thread's work."""
        lower_priority()
        while True:
            with self._wake:
                self._wake.wait_for(lambda: bool(self._orders) or self._ending)
                if self._ending:
                    return
                order = self._orders.pop(0)
                number = self._running = order.number
                self._progress = Progress(partial(self.progressed.emit, number))
                self._progress.pause(self._paused)
            self._do(order, self._progress)
            with self._wake:
                self._running, self._progress = None, None

    def _do(self, order: Order, progress: Progress) -> None:
        self.started_job.emit(order.number)
        try:
            self.delivered.emit(order.number, run(self._journal, order.job, progress))
        except Cancelled:
            self.cancelled.emit(order.number)
        except Exception as error:
            self.failed.emit(order.number, failure_words(error))
