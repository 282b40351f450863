"""The deliveries asked for, and how far each one is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from wamplex.core.jobs.job import ENDED, Job, State
from wamplex.core.jobs.journal import Journal, Planned
from wamplex.core.jobs.recover import recover


@dataclass
class Row:
    """One job as the list shows it.

    Attributes
    ----------
    number : its place in the list, from 0
    job : as it was written down, None where it could not even be begun
    name : that the file will have if it is free
    result : the file, once it is written
    """

    number: int
    job: Job | None
    name: Path
    expected_bytes: int = 0
    state: State = State.WAITING
    fraction: float = 0.0
    words: str = "waiting"
    result: Path | None = None
    file_bytes: int = 0


class Jobs(QObject):
    """All jobs of this session, in the order they were asked for, and those of one that was cut off."""

    added = Signal(int)
    changed = Signal(int)

    def __init__(self, journal: Journal) -> None:
        super().__init__()
        self.journal = journal
        self.rows: list[Row] = []

    def add(self, planned: Sequence[Planned]) -> list[Row]:
        """Put some more at the end; they are written down first."""
        return [self._row(job) for job in self.journal.add(planned)]

    def add_failed(self, name: Path, sentence: str) -> None:
        """Show one that cannot be begun."""
        row = Row(len(self.rows), None, name, state=State.FAILED, words=sentence)
        self.rows.append(row)
        self.added.emit(row.number)

    def take_up(self) -> list[Row]:
        """Those of a program that ended in the middle of its work."""
        return [self._row(job) for job in recover(self.journal)]

    def update(
        self,
        number: int,
        *,
        state: State,
        fraction: float = 0.0,
        words: str = "",
        result: Path | None = None,
        file_bytes: int = 0,
    ) -> None:
        """A job moved on."""
        row = self.rows[number]
        row.state, row.fraction, row.words = state, fraction, words
        row.result, row.file_bytes = result, file_bytes
        self.changed.emit(number)

    @property
    def open(self) -> list[Row]:
        """Jobs that have not ended."""
        return [row for row in self.rows if row.state not in ENDED]

    def _row(self, job: Job) -> Row:
        row = Row(len(self.rows), job, job.planned, job.expected_bytes)
        self.rows.append(row)
        self.added.emit(row.number)
        return row
