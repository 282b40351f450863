"""The deliveries of this session, and the state of each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from wamplex.core.deliver.deliver import Delivered
from wamplex.core.workflow.json_values import lineage_values
from wamplex.core.workflow.orders.order import Order
from wamplex.core.workflow.queue.job import ENDED, Job, State
from wamplex.core.workflow.queue.journal import Journal
from wamplex.core.workflow.queue.recovery import recover_jobs
from wamplex.core.workflow.queue.throughput import expected_seconds, load_throughputs


@dataclass
class JobRowData:
    """One job as the list shows it.

    Attributes
    ----------
    number : its place in the list, from 0
    job : as it was written down, None where it could not even be begun
    name : that the file will have if it is free
    megapixels : of the file; 0 where it is not known, for a job of a program that was cut off
    done : what was written, once it is
    expected_s : expected duration; None until a similar file was written here
    """

    number: int
    job: Job | None
    name: Path
    expected_bytes: int = 0
    megapixels: float = 0.0
    state: State = State.WAITING
    fraction: float = 0.0
    text: str = "waiting"
    done: Delivered | None = None
    expected_s: float | None = None

    @property
    def result(self) -> Path | None:
        """The file, once it is written."""
        return None if self.done is None else self.done.path

    @property
    def file_bytes(self) -> int:
        """Size of the file, 0 until it is written."""
        return 0 if self.done is None else self.done.check.file_bytes


class Jobs(QObject):
    """All jobs of this session, in the order they were asked for, and those of one that was cut off."""

    added = Signal(int)  # how many, at the end
    ordered = Signal(object)  # list of `JobRowData` that are to be made
    changed = Signal(int)

    def __init__(self, journal: Journal) -> None:
        super().__init__()
        self.journal = journal
        self.rows: list[JobRowData] = []

    def add(self, orders: Sequence[Order], megapixels: Sequence[float]) -> None:
        """Put some more at the end; they are written down first.

        Parameters
        ----------
        megapixels : of each file
        """
        self.list_written(self.journal.add(orders), megapixels)

    def list_written(self, jobs: Sequence[Job], megapixels: Sequence[float]) -> None:
        """Put some more at the end that the journal has already."""
        throughputs = load_throughputs()
        rows = [self._row(job, count, throughputs) for job, count in zip(jobs, megapixels, strict=True)]
        self.ordered.emit(self._listed(rows))

    def add_failed(self, name: Path, sentence: str) -> None:
        """Show one that cannot be begun."""
        self._listed([JobRowData(0, None, name, state=State.FAILED, text=sentence)])

    def take_up(self) -> list[JobRowData]:
        """Rows for the jobs of an interrupted program."""
        return self._listed([self._row(job) for job in recover_jobs(self.journal)])

    def update(
        self,
        number: int,
        *,
        state: State,
        fraction: float = 0.0,
        text: str = "",
        done: Delivered | None = None,
    ) -> None:
        """A job moved on."""
        row = self.rows[number]
        row.state, row.fraction, row.text = state, fraction, text
        row.done = done
        self.changed.emit(number)

    @property
    def open(self) -> list[JobRowData]:
        """Jobs that have not ended."""
        return [row for row in self.rows if row.state not in ENDED]

    @property
    def ended(self) -> int:
        """How many have ended."""
        return len(self.rows) - len(self.open)

    @property
    def seconds_left(self) -> float | None:
        """About how long all jobs that have not ended will take; None where it is not known of each."""
        left = 0.0
        for row in self.open:
            if row.expected_s is None:
                return None
            left += row.expected_s * (1 - row.fraction)
        return left

    def report_rows(self) -> list[dict[str, Any]]:
        """Results of all ended jobs, for a report."""
        return [_reported(row) for row in self.rows if row.state in ENDED]

    def _row(self, job: Job, megapixels: float = 0.0, throughputs: dict[str, float] | None = None) -> JobRowData:
        seconds = expected_seconds(job.recipe, megapixels, throughputs) if megapixels else None
        return JobRowData(0, job, job.planned, job.expected_bytes, megapixels, expected_s=seconds)

    def _listed(self, rows: list[JobRowData]) -> list[JobRowData]:
        for row in rows:
            row.number = len(self.rows)
            self.rows.append(row)
        self.added.emit(len(rows))
        return rows


def _reported(row: JobRowData) -> dict[str, Any]:
    if row.job is None or row.done is None:
        return {"source": str(row.name if row.job is None else row.job.source.path), "error": row.text}
    return lineage_values(str(row.job.source.path), row.job.recipe, row.done)
