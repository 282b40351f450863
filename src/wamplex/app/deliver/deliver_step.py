"""The Deliver step: what is written and where, and the jobs."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QSplitter, QVBoxLayout, QWidget

from wamplex.app.deliver.deliver_panel import DeliverPanel
from wamplex.app.deliver.job_list import JobList
from wamplex.app.deliver.job_row import JobRow
from wamplex.app.deliver.jobs import Jobs
from wamplex.app.deliver.ordering import Ordering
from wamplex.app.deliver.result_view import Result, ResultView
from wamplex.app.shared.widgets import button, frame, toolbar
from wamplex.app.tray.decision_transfer import DecisionTransfer
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.tray import Tray
from wamplex.app.workers.rendering.result_crops import ResultCropWorker
from wamplex.core.analysis.content.spots import Spot, transform_spots
from wamplex.core.base.errors import WamplexError
from wamplex.core.deliver.request.file_formats import FILE_FORMATS
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.sheet import file_pixels
from wamplex.core.intake.probe import probe
from wamplex.core.model.assets import process_assets
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.workflow.lineage.results import LineageResult
from wamplex.core.workflow.orders.order import Order, create_order
from wamplex.core.workflow.queue.job import ENDED
from wamplex.core.workflow.recipe_transfer.transfer import Part

# Long orders are listed in portions; what is said of all pictures is not said anew after each.
_SOON_MS = 50


class DeliverStep(QWidget):
    """Bench and panel of the Deliver step."""

    announced = Signal(str)
    cancel_asked = Signal(object)  # set of numbers
    pause_asked = Signal(bool)
    further_asked = Signal(object)  # path of a result that is to be a source
    trial_asked = Signal(int)  # number of a picture whose trials are to be looked at
    first_asked = Signal(int)
    report_asked = Signal(object)  # path of a report that is to be written

    def __init__(self, tray: Tray, jobs: Jobs, looks: ResultCropWorker) -> None:
        super().__init__()
        self._tray, self._jobs = tray, jobs
        self.all_button = button("Deliver", "Write a file for every picture", self.deliver_all, "main")
        self.one_button = button("This picture only", "Write a file for the selected picture", self.deliver_one)
        self.pause_button = button("Pause", "Pause the jobs. Press again to resume", self._pause)
        self.pause_button.setCheckable(True)
        self.cancel_button = button("Cancel all", "Cancel all jobs. Finished files stay", self._cancel_all)
        self.report_button = button("Report…", "Save the results of all jobs as .csv or .json", self._ask_report)
        bar = toolbar(
            self.all_button,
            self.one_button,
            frame("divider"),
            self.pause_button,
            self.cancel_button,
            None,
            self.report_button,
        )
        self.rows = JobList(self._new_row)
        left = QVBoxLayout()
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(0)
        left.addWidget(bar)
        self.result_view = ResultView(looks)
        self.result_view.trial_asked.connect(self._to_trial)
        self.result_view.hide()
        self._split = QSplitter(Qt.Orientation.Vertical)
        self._split.addWidget(self.rows)
        self._split.addWidget(self.result_view)
        self._split.setChildrenCollapsible(False)
        left.addWidget(self._split, 1)
        self.panel = DeliverPanel()
        self.panel.changed.connect(self.refresh)
        self.panel.use_for_all_asked.connect(self._use_for_all)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(left, 1)
        layout.addWidget(self.panel)
        self.ordering = Ordering(jobs, self._plan)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._refresh_if_visible)
        jobs.added.connect(self._add_rows)
        jobs.changed.connect(self._job_changed)
        for signal in (tray.selected, tray.changed, tray.reordered):
            signal.connect(lambda *_: self._refresh_if_visible())
        self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        """Apply the decisions made while another step was open."""
        super().showEvent(event)
        self.refresh()

    def _refresh_if_visible(self) -> None:
        """With a thousand pictures this is asked for ten thousand times while they are measured."""
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Show what delivering would do now."""
        usable = self._tray.usable
        current = self._tray.current if self._tray.current in usable else None
        count = len(usable)
        self.all_button.setText(f"Deliver {count} pictures" if count != 1 else "Deliver 1 picture")
        self.all_button.setAccessibleName(self.all_button.text())
        self.all_button.setEnabled(count > 0)
        self.one_button.setEnabled(current is not None)
        self._enable()
        self.panel.show_entries(current, usable)

    def _enable(self) -> None:
        open_jobs = bool(self._jobs.open)
        self.pause_button.setEnabled(open_jobs)
        self.cancel_button.setEnabled(open_jobs)
        self.report_button.setEnabled(self._jobs.ended > 0)

    def deliver_all(self) -> None:
        """Order a file for every usable picture."""
        self.ordering.order(self._tray.usable)

    def deliver_one(self) -> None:
        """Order a file for the selected picture."""
        if self._tray.current is not None and self._tray.current.usable:
            self.ordering.order([self._tray.current])

    def _plan(self, entry: TrayEntry) -> tuple[Order, float] | None:
        assert entry.size is not None
        try:
            assert entry.header is not None
            order = create_order(entry.header, entry.delivered_recipe(), self.panel.delivery)
        except WamplexError as error:
            self._jobs.add_failed(entry.path, str(error))
            return None
        width, height = file_pixels(entry.size, entry.sheet)
        return order, width * height / 1e6

    def _retry(self, number: int) -> None:
        row = self._jobs.rows[number]
        job = row.job
        if job is not None:
            again = Order(job.source, job.recipe, job.delivery, job.planned, job.expected_bytes)
            self._jobs.add([again], [row.megapixels])

    def _add_rows(self, count: int) -> None:
        self.rows.add(count)
        self._enable()
        if not self._soon.isActive():
            self._soon.start(_SOON_MS)

    def _new_row(self, number: int, bench: QWidget) -> JobRow:
        row = JobRow(self._jobs.rows[number], bench)
        row.cancel_asked.connect(lambda number: self.cancel_asked.emit({number}))
        row.retry_asked.connect(self._retry)
        row.further_asked.connect(self.further_asked)
        row.look_asked.connect(self._look_at_job)
        row.first_asked.connect(self.first_asked)
        return row

    def look_at(self, result: LineageResult, entry: TrayEntry) -> None:
        """Show a file that was made of a picture beside it."""
        self._show_result(_result(result.path, result.recipe, entry.source, entry.pixels, entry.all_spots))

    def _look_at_job(self, number: int) -> None:
        row = self._jobs.rows[number]
        if row.job is None or row.result is None:
            return
        source = row.job.source
        entry = next((e for e in self._tray.usable if e.source == source), None)
        if entry is not None:
            pixels, spots = entry.pixels, entry.all_spots
        else:
            try:
                header = probe(source.path)
            except WamplexError as error:
                self.announced.emit(str(error))
                return
            pixels, spots = (header.width, header.height), ()
        self._show_result(_result(row.result, row.job.recipe, source, pixels, spots))

    def _show_result(self, result: Result) -> None:
        if result.path.suffix == FILE_FORMATS["dng"].suffix:
            self.announced.emit("A DNG must be developed first. Add it to the tray to see it")
            return
        if not self.result_view.isVisible():
            self.result_view.show()
            height = self._split.height()
            self._split.setSizes([max(120, height // 3), height - max(120, height // 3)])
        self.result_view.show_result(result)

    def _to_trial(self, result: Result) -> None:
        entry = next((e for e in self._tray.usable if e.source == result.source), None)
        if entry is None:
            self.announced.emit(f"{result.source.path.name} is not in the tray")
        else:
            self.trial_asked.emit(entry.number)

    def _ask_report(self) -> None:
        chosen, _ = QFileDialog.getSaveFileName(self, "Report of all files", "report.csv", "Reports (*.csv *.json)")
        if chosen:
            self.report_asked.emit(Path(chosen))

    def _job_changed(self, number: int) -> None:
        self.rows.refresh(number)
        if self._jobs.rows[number].state in ENDED:
            self._soon.start(0)  # how long such a file takes is known better now
        self._enable()
        if not self._jobs.open and self.pause_button.isChecked():
            self.pause_button.setChecked(False)
            self._pause()

    def _pause(self) -> None:
        paused = self.pause_button.isChecked()
        self.pause_button.setText("Resume" if paused else "Pause")
        self.pause_asked.emit(paused)

    def _cancel_all(self) -> None:
        self.ordering.drop()
        self.cancel_asked.emit({job.number for job in self._jobs.open})

    def _use_for_all(self) -> None:
        chosen = self._tray.current
        if chosen is None or chosen.size is None:
            return
        transfer = DecisionTransfer(
            chosen.delivered_recipe(),
            frozenset[Part]({"size", "trial"}),
            remeasured=False,
            text=f"size and trials of {chosen.path.name}",
            trials=chosen.trials,
        )
        others = [entry.number for entry in self._tray.usable if entry is not chosen]
        for name, notes in self._tray.carry(others, transfer).items():
            self.announced.emit(f"{name}: {notes[0]}")


def _result(path: Path, recipe: Recipe, source: Source, pixels: tuple[int, int], spots: tuple[Spot, ...]) -> Result:
    """The result to compare; masks of an older session may be missing."""
    at_hand = set(process_assets())
    complete = all(ref in at_hand for ref in recipe.finish.parts)
    spots_in_result = transform_spots(spots, Framing(), recipe.framing, *pixels)
    return Result(path, source, recipe, *pixels, spots_in_result, complete)
