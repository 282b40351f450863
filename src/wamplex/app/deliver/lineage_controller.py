"""Lists results under their sources, opens them in Deliver, and finds the source of a result."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from wamplex.app.deliver.deliver_step import DeliverStep
from wamplex.app.deliver.jobs import Jobs
from wamplex.app.shared.notice_bar import NoticeBar
from wamplex.app.tray.change_kinds import ChangeKind
from wamplex.app.tray.tray import Tray
from wamplex.app.workers.files.lineage import LineageFinder, SearchResults, SearchSource
from wamplex.core.workflow.lineage.results import LineageResult
from wamplex.core.workflow.queue.job import State


class LineageController(QObject):
    """Asks for what was made of each picture, and shows it.

    Parameters
    ----------
    take_in : takes files into the tray
    """

    announced = Signal(str)
    deliver_asked = Signal()  # the Deliver step is to be opened

    def __init__(
        self,
        parent: QObject,
        tray: Tray,
        jobs: Jobs,
        step: DeliverStep,
        notices: NoticeBar,
        take_in: Callable[[list[Path]], None],
    ) -> None:
        super().__init__(parent)
        self._tray, self._jobs, self._step, self._notices = tray, jobs, step, notices
        self._take_in = take_in
        self.finder = LineageFinder(self)
        self.finder.results_found.connect(tray.file_facts.results)
        self.finder.source_found.connect(self._show_source)
        tray.changed.connect(self._entry_changed)
        jobs.changed.connect(self._job_changed)

    def look_at(self, number: int, result: LineageResult) -> None:
        """A result in the tray was chosen: show it beside its source."""
        self._tray.select(number)
        self.deliver_asked.emit()
        self._step.look_at(result, self._tray.entry(number))

    def open_source_of(self, number: int) -> None:
        """Look for what a picture of the tray was made of, and take it in."""
        path = self._tray.entry(number).path
        self.announced.emit(f"Looking for the source of {path.name}")
        self.finder.also(SearchSource(path))

    def _entry_changed(self, number: int, changes: frozenset[ChangeKind]) -> None:
        entry = self._tray.entry(number)
        if "file" in changes and entry.usable:
            self.finder.also(SearchResults(entry.source))

    def _job_changed(self, number: int) -> None:
        """A file that is finished stands under its source from now on."""
        row = self._jobs.rows[number]
        if row.state is State.DONE and row.job is not None:
            self.finder.also(SearchResults(row.job.source))

    def _show_source(self, result: Path, source: Path | None) -> None:
        if source is None:
            self._notices.warn(f"The source of {result.name} was not found, neither near it nor near other results.")
            return
        self._take_in([source])
        self._tray.select(next(entry.number for entry in self._tray.entries if entry.path == source))
        self.announced.emit(f"{source.name} is the source of {result.name}")
