"""The deliveries asked for, and how far each one is."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from wamplex.core.deliver.delivery import Delivery
from wamplex.core.recipe import Recipe
from wamplex.core.source import Source


class State(Enum):
    """Where a job stands."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


ENDED = (State.DONE, State.FAILED, State.CANCELLED)


@dataclass
class Job:
    """One file to be made.

    Attributes
    ----------
    planned : name it will have if it is free
    result : the file, once it is written
    """

    number: int
    source: Source
    recipe: Recipe
    delivery: Delivery
    planned: Path
    expected_bytes: int
    state: State = State.WAITING
    fraction: float = 0.0
    words: str = "waiting"
    result: Path | None = None
    file_bytes: int = 0


class Jobs(QObject):
    """All jobs of this session, in the order they were asked for."""

    added = Signal(int)
    changed = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[Job] = []

    def add(
        self, source: Source, recipe: Recipe, delivery: Delivery, planned: Path, expected_bytes: int
    ) -> Job:
        """Put one more at the end."""
        job = Job(len(self.rows), source, recipe, delivery, planned, expected_bytes)
        self.rows.append(job)
        self.added.emit(job.number)
        return job

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
        job = self.rows[number]
        job.state, job.fraction, job.words = state, fraction, words
        job.result, job.file_bytes = result, file_bytes
        self.changed.emit(number)

    @property
    def open(self) -> list[Job]:
        """Jobs that have not ended."""
        return [j for j in self.rows if j.state not in ENDED]
