"""Files made in this very process, whose parts a test may replace."""

from __future__ import annotations

from wamplex.core.deliver.deliver import Delivered
from wamplex.core.jobs.job import Job
from wamplex.core.jobs.journal import Journal
from wamplex.core.jobs.run import run
from wamplex.core.progress import Progress


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
