"""Plans files and writes them to the journal: a few at once, many in batches off the GUI thread."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import partial

from PySide6.QtCore import QObject, Signal

from wamplex.app.deliver.jobs import Jobs
from wamplex.app.shared.batches import BatchedUpdates
from wamplex.app.shared.freeze_gc import MANY, freeze_gc
from wamplex.app.tray.entry import TrayEntry
from wamplex.core.workflow.orders.order import Order
from wamplex.core.workflow.queue.job import Job

# A thousand planned at once would hold the window up for 0.2 s, and a busy disk may take seconds to write;
# a thousand listed at once takes 10 ms.
_FEW, _FEW_LISTED = 8, 50


@dataclass(eq=False)
class _Batch:
    """What was asked for together, and how far that is."""

    entries: list[TrayEntry]
    orders: list[Order] = field(default_factory=list)
    megapixels: list[float] = field(default_factory=list)
    writing: Future[list[Job]] | None = None
    listed: int = 0


class Ordering(QObject):
    """Between the wish for files and the list of jobs.

    Parameters
    ----------
    plan : the order for a picture's file, and its megapixels; None when it cannot be made
    """

    _written = Signal(object)  # _Batch

    def __init__(self, jobs: Jobs, plan: Callable[[TrayEntry], tuple[Order, float] | None]) -> None:
        super().__init__()
        self._jobs, self._plan_one = jobs, plan
        self._batches = BatchedUpdates(self)
        self._pending: list[_Batch] = []
        self._writer = ThreadPoolExecutor(1, "ordering")
        self._written.connect(self._list_written)

    @property
    def pending(self) -> int:
        """How many files were asked for and are not in the list yet."""
        return sum(len(batch.entries) - batch.listed for batch in self._pending)

    def order(self, entries: list[TrayEntry]) -> None:
        """Have a file made of each."""
        batch = _Batch(entries)
        if len(entries) <= _FEW:
            self._plan(batch, entries)
            self._jobs.add(batch.orders, batch.megapixels)
            return
        self._pending.append(batch)
        for first in range(0, len(entries), _FEW):
            self._batches.put(partial(self._plan, batch, entries[first : first + _FEW]))
        self._batches.put(partial(self._write, batch))

    def drop(self) -> None:
        """Drop the orders that are not in the list yet."""
        self._batches.clear()
        for batch in self._pending:
            if batch.writing is not None:
                self._jobs.journal.give_up([job.number for job in batch.writing.result()[batch.listed :]])
        self._pending.clear()

    def end(self, *, keep: bool) -> None:
        """The window closes: write down at once what is not written yet, for the next start, or drop it."""
        if keep:
            self._batches.finish()
            self._writer.shutdown()
            self._pending.clear()
        self.drop()

    def _plan(self, batch: _Batch, entries: list[TrayEntry]) -> None:
        for order, megapixels in filter(None, map(self._plan_one, entries)):
            batch.orders.append(order)
            batch.megapixels.append(megapixels)

    def _write(self, batch: _Batch) -> None:
        batch.writing = self._writer.submit(self._jobs.journal.add, batch.orders)
        batch.writing.add_done_callback(lambda _: self._written.emit(batch))

    def _list_written(self, batch: _Batch) -> None:
        if batch in self._pending:
            assert batch.writing is not None
            jobs = batch.writing.result()
            for first in range(0, len(jobs), _FEW_LISTED):
                self._batches.put(partial(self._list, batch, jobs[first : first + _FEW_LISTED]))
            self._batches.put(partial(self._close, batch))

    def _list(self, batch: _Batch, jobs: list[Job]) -> None:
        first = batch.listed
        batch.listed += len(jobs)
        self._jobs.list_written(jobs, batch.megapixels[first : batch.listed])

    def _close(self, batch: _Batch) -> None:
        self._pending.remove(batch)
        if batch.listed >= MANY:
            freeze_gc()
