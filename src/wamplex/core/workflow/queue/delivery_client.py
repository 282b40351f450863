"""Has files made by a worker process."""

from __future__ import annotations

from typing import Protocol

from wamplex.core.base.atomic_files import discard
from wamplex.core.base.errors import Cancelled, DeliveryError
from wamplex.core.base.progress import Progress
from wamplex.core.deliver.deliver import Delivered
from wamplex.core.model.assets import process_assets
from wamplex.core.upscale.networks.execution import current_execution
from wamplex.core.workflow.queue.job import Job, State
from wamplex.core.workflow.queue.journal import Journal
from wamplex.core.workflow.queue.run_job import CANCELLED_WORDS
from wamplex.core.workflow.subprocess.worker_client import WorkerClient

_CRASHED = (
    "The part of Wamplex that makes files came to an end in the middle of this one, perhaps for want of "
    "memory. Close others and try again."
)


class FileMaker(Protocol):
    """What makes the files of jobs; safe to use from several threads at once."""

    def make(self, job: Job, progress: Progress, at_once: int) -> Delivered:
        """Make the file of a job; as `run.run` does."""

    def warm_up(self) -> None:
        """A file may be wanted soon."""

    def close(self) -> None:
        """No more files are wanted."""


class DeliveryClient:
    """Makes files in a process of its own, begun when it is needed; it ends by itself after idle time."""

    def __init__(self, journal: Journal) -> None:
        self._journal = journal
        self._worker = WorkerClient("wamplex.core.workflow.queue.delivery_worker", str(journal.path), journal.owner)

    def make(self, job: Job, progress: Progress, at_once: int) -> Delivered:
        """Make the file of a job; as `run.run` does.

        Raises
        ------
        DeliveryError : with the words for whatever stopped it there
        Cancelled : when ``progress`` is cancelled
        """
        parts = [process_assets().get(ref) for ref in job.recipe.finish.parts]
        order = ("make", job, at_once, current_execution(), parts)
        following = self._worker.follow(job.number, order, progress, lambda: (self._journal.paused,))
        for kind, *message in following:
            if kind == "reported":
                progress.report(*message)
            elif kind == "made":
                return message[0]  # type: ignore[no-any-return]
            elif kind == "cancelled":
                raise Cancelled
            elif kind == "failed":
                raise DeliveryError(*message)
        if progress.cancelled:
            self._tidy(job, State.CANCELLED, CANCELLED_WORDS)
            raise Cancelled
        self._tidy(job, State.FAILED, _CRASHED)
        raise DeliveryError(_CRASHED)

    def warm_up(self) -> None:
        """Begin the process, which takes a second."""
        self._worker.warm_up()

    def close(self) -> None:
        """End the process."""
        self._worker.close()

    def _tidy(self, job: Job, state: State, text: str) -> None:
        for path in self._journal.partials(job.number):
            discard(path)
        self._journal.update(job.number, state, text)
