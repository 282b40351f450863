"""Files made and pictures measured in this very process, whose parts a test may replace."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from wamplex.core.analysis.report.condition import Condition
from wamplex.core.base.errors import SourceChangedError, UnreadablePictureError
from wamplex.core.base.progress import Progress
from wamplex.core.deliver.deliver import Delivered
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.model.development import Development
from wamplex.core.model.source import Source
from wamplex.core.workflow.assessment.assessment_client import UnmeasuredError
from wamplex.core.workflow.assessment.condition_rows import Cutouts, make_evidence_crops, measure_rows
from wamplex.core.workflow.assessment.tray_preview import TrayPreview, make_tray_preview
from wamplex.core.workflow.queue.job import Job
from wamplex.core.workflow.queue.journal import Journal
from wamplex.core.workflow.queue.run_job import run_job


class Here:
    """Stands in for `DeliveryClient`, which starts a process for each window."""

    def __init__(self, journal: Journal) -> None:
        self._journal = journal

    def make(self, job: Job, progress: Progress, at_once: int) -> Delivered:
        """As `DeliveryClient.make`, which has the same done elsewhere."""
        return run_job(self._journal, job, progress, at_once=at_once)

    def warm_up(self) -> None:
        """Nothing has to be started."""

    def close(self) -> None:
        """Nothing has to be ended."""


_measured: dict[tuple[bytes, Development | None], list[tuple[Condition, Cutouts]]] = {}


def measure_anew() -> None:
    """Forget what was measured, for a test that looks at the measuring itself."""
    _measured.clear()


class MeasuredHere:
    """Stands in for `AssessmentClient`, which starts a process for each window.

    Many tests open the same picture. It is measured once.
    """

    def __init__(self) -> None:
        self._store = PictureCache(0)

    def rows(
        self, source: Source, development: Development | None, progress: Progress
    ) -> Iterator[tuple[Condition, Cutouts]]:
        """As `AssessmentClient.rows`, which has the same done elsewhere."""
        try:
            self._store.get(source, progress)
            key = (source.path.read_bytes(), development)
            rows: list[tuple[Condition, Cutouts]] = []
            for row in _measured.get(key) or measure_rows(self._store, source, development, progress):
                progress.check()
                rows.append(row)
                yield row
            _measured[key] = rows
        except (UnreadablePictureError, SourceChangedError, MemoryError):
            raise UnmeasuredError from None

    def evidence_crops(self, source: Source, condition: Condition, progress: Progress) -> Cutouts:
        """As `AssessmentClient.evidence_crops`."""
        return make_evidence_crops(self._store, source, condition, progress)

    def small(self, path: Path, _progress: Progress) -> TrayPreview:
        """As `AssessmentClient.small`."""
        return make_tray_preview(path)

    def warm_up(self) -> None:
        """Nothing has to be started."""

    def close(self) -> None:
        """Nothing has to be ended."""
