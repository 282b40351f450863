"""Files made and pictures measured in this very process, whose parts a test may replace."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from wamplex.core.deliver.deliver import Delivered
from wamplex.core.errors import SourceChangedError, UnreadablePictureError
from wamplex.core.intake.store import PictureStore
from wamplex.core.jobs.job import Job
from wamplex.core.jobs.journal import Journal
from wamplex.core.jobs.run import run
from wamplex.core.measure.condition import Condition
from wamplex.core.measuring.apart import UnmeasuredError
from wamplex.core.measuring.rows import Cutouts, cutouts_of, measured_rows
from wamplex.core.measuring.small import Small, small_of
from wamplex.core.progress import Progress
from wamplex.core.raw.development import Development
from wamplex.core.source import Source


class Here:
    """Stands in for `Apart`, which begins a process of its own for each window."""

    def __init__(self, journal: Journal) -> None:
        self._journal = journal

    def make(self, job: Job, progress: Progress, at_once: int) -> Delivered:
        """As `Apart.make`, which has the same done elsewhere."""
        return run(self._journal, job, progress, at_once=at_once)

    def warm_up(self) -> None:
        """Nothing has to be begun."""

    def close(self) -> None:
        """Nothing has to be ended."""


class MeasuredHere:
    """Stands in for `MeasuredApart`, which begins a process of its own for each window."""

    def __init__(self) -> None:
        self._store = PictureStore(0)

    def rows(
        self, source: Source, development: Development | None, progress: Progress
    ) -> Iterator[tuple[Condition, Cutouts]]:
        """As `MeasuredApart.rows`, which has the same done elsewhere."""
        try:
            yield from measured_rows(self._store, source, development, progress)
        except (UnreadablePictureError, SourceChangedError, MemoryError):
            raise UnmeasuredError from None

    def cutouts(self, source: Source, condition: Condition, progress: Progress) -> Cutouts:
        """As `MeasuredApart.cutouts`."""
        return cutouts_of(self._store, source, condition, progress)

    def small(self, path: Path, _progress: Progress) -> Small:
        """As `MeasuredApart.small`."""
        return small_of(path)

    def warm_up(self) -> None:
        """Nothing has to be begun."""

    def close(self) -> None:
        """Nothing has to be ended."""
