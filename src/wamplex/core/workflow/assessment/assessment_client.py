"""Has pictures measured by a worker process."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from itertools import count
from pathlib import Path
from typing import Protocol

from wamplex.core.analysis.report.condition import Condition
from wamplex.core.base.errors import Cancelled, UnreadablePictureError
from wamplex.core.base.progress import Progress
from wamplex.core.model.development import Development
from wamplex.core.model.source import Source
from wamplex.core.upscale.networks.execution import current_execution
from wamplex.core.workflow.assessment.condition_rows import Cutouts
from wamplex.core.workflow.assessment.tray_preview import TrayPreview
from wamplex.core.workflow.subprocess.worker_client import WORKER_ENDED, WorkerClient

_LAST = ("failed", "cancelled", WORKER_ENDED)


class UnmeasuredError(Exception):
    """A picture could not be measured; without words where it is said elsewhere that it cannot be read."""


class Assessor(Protocol):
    """What measures pictures; safe to use from several threads at once."""

    def rows(
        self, source: Source, development: Development | None, progress: Progress
    ) -> Iterator[tuple[Condition, Cutouts]]:
        """See `measure_rows`."""

    def evidence_crops(self, source: Source, condition: Condition, progress: Progress) -> Cutouts:
        """See `make_evidence_crops`."""

    def small(self, path: Path, progress: Progress) -> TrayPreview:
        """See `make_tray_preview`."""

    def warm_up(self) -> None:
        """A picture may come soon."""

    def close(self) -> None:
        """No more pictures are measured."""


class AssessmentClient:
    """Measures in a process of its own, begun when it is needed; it ends by itself after idle time."""

    def __init__(self) -> None:
        self._worker = WorkerClient("wamplex.core.workflow.assessment.assessment_worker")
        self._numbers = count()
        self._once_more = threading.Lock()

    def rows(
        self, source: Source, development: Development | None, progress: Progress
    ) -> Iterator[tuple[Condition, Cutouts]]:
        """The condition as known after each measurement, and what is new of small pictures.

        Raises
        ------
        UnmeasuredError : when it could not be measured (to the end)
        Cancelled : when ``progress`` is cancelled
        """
        order = ("rows", source, development, current_execution())
        for kind, *answer in self._worker.follow(next(self._numbers), order, progress):
            if kind == "row":
                condition, cutouts = answer
                yield condition, cutouts
            elif kind == "done":
                return
            elif kind in _LAST:
                break
        raise _error(kind, answer, source, progress)

    def evidence_crops(self, source: Source, condition: Condition, progress: Progress) -> Cutouts:
        """All small pictures of a condition sheet.

        Raises
        ------
        UnmeasuredError, Cancelled : as `rows`
        """
        for kind, *answer in self._worker.follow(next(self._numbers), ("cutouts", source, condition), progress):
            if kind == "made":
                return answer[0]  # type: ignore[no-any-return]
            if kind in _LAST:
                break
        raise _error(kind, answer, source, progress)

    def small(self, path: Path, progress: Progress) -> TrayPreview:
        """Preview of a file for the tray.

        Raises
        ------
        UnreadablePictureError : when it cannot be read
        Cancelled : when ``progress`` is cancelled before that
        """
        preview = self._small(path, progress)
        if preview is None:  # perhaps for another file that was looked at beside it
            with self._once_more:
                preview = self._small(path, progress)
        if preview is None:
            raise UnreadablePictureError(f"Wamplex crashed while reading {path.name}. The file may be damaged.")
        return preview

    def _small(self, path: Path, progress: Progress) -> TrayPreview | None:
        """None when the process came to an end in the middle of it."""
        for kind, *answer in self._worker.follow(next(self._numbers), ("small", path), progress):
            if kind == "looked":
                return answer[0]  # type: ignore[no-any-return]
            if kind in _LAST:
                break
        if progress.cancelled:
            raise Cancelled
        if kind == "failed":
            raise UnreadablePictureError(*answer)
        return None

    def warm_up(self) -> None:
        """Begin the process, which takes a second."""
        self._worker.warm_up()

    def close(self) -> None:
        """End the process."""
        self._worker.close()


def _error(kind: str, answer: list[str], source: Source, progress: Progress) -> Exception:
    """Exception for the worker's last message."""
    if kind == "cancelled" or progress.cancelled:
        return Cancelled()
    if kind == "failed":
        return UnmeasuredError(*answer)
    return UnmeasuredError(
        f"The part of Wamplex that measures pictures came to an end in the middle of {source.path.name}, "
        "perhaps for want of memory. It can be used, but nothing is suggested for it."
    )
