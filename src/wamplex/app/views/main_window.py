"""The one window: rail, tray, the open step, status line."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QKeySequence
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QMainWindow,
    QMessageBox,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from wamplex.app.models.jobs import Job, Jobs, State
from wamplex.app.models.tray import SUFFIXES, Tray
from wamplex.app.views.deliver_step import DeliverStep
from wamplex.app.views.size_step import SizeStep
from wamplex.app.views.status_line import StatusLine
from wamplex.app.views.step_rail import StepRail
from wamplex.app.views.tray_view import TrayView
from wamplex.app.views.trial_step import SOURCE_KEY, TrialStep
from wamplex.app.workers.delivery import DeliveryThread, Order
from wamplex.app.workers.loader import Loader, PictureStore
from wamplex.app.workers.tiles import TileRenderer
from wamplex.core.geometry.words import summary

SIZE, TRIAL, DELIVER = range(3)


class MainWindow(QMainWindow):
    """Owns the models and the workers, and connects them."""

    def __init__(self) -> None:
        super().__init__()
        self.setWindowTitle("Wamplex")
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.tray, self.jobs = Tray(), Jobs()
        self._loader = Loader()
        self.renderer = TileRenderer(PictureStore(), self)
        self._deliveries = DeliveryThread(self)
        self.rail, self.status = StepRail(), StatusLine()
        self.size_step = SizeStep(self.tray)
        self.trial_step = TrialStep(self.tray, self.renderer)
        self.deliver_step = DeliverStep(self.tray, self.jobs)
        self.tray_view = TrayView(self.tray)
        self._steps = QStackedWidget()
        for step in (self.size_step, self.trial_step, self.deliver_step):
            self._steps.addWidget(step)
        self._lay_out()
        self._connect()
        self._add_keys()
        self.open_step(SIZE)
        self.renderer.start()
        self._deliveries.start()
        QApplication.instance().installEventFilter(self)  # type: ignore[union-attr]

    def take_in(self, paths: list[Path]) -> None:
        """Add files or folders to the tray and look at them."""
        for entry in self.tray.add(paths):
            self._loader.look(entry)
        if paths:
            folder = self.tray.entries[-1].path.parent.name if self.tray.entries else ""
            self.rail.show_place(folder)

    def open_step(self, index: int) -> None:
        """Show a step."""
        self._steps.setCurrentIndex(index)
        self.rail.show_step(index)
        if index != TRIAL and not self.jobs.open:
            self.status.show_idle("Ready")

    def closeEvent(self, event: QCloseEvent) -> None:
        """Ask when files are being written; then end the workers. A job under way leaves no file."""
        if self.jobs.open and not self.confirm_close():
            event.ignore()
            return
        QApplication.instance().removeEventFilter(self)  # type: ignore[union-attr]
        self._loader.finish()
        self.renderer.end()
        self._deliveries.end()
        super().closeEvent(event)

    def confirm_close(self) -> bool:
        """Whether to stop the jobs that have not ended."""
        count = len(self.jobs.open)
        files = "1 file is" if count == 1 else f"{count} files are"
        answer = QMessageBox.question(
            self,
            "Close Wamplex?",
            f"{files} not finished yet. Stop and close? Finished files stay; nothing half-written is left.",
        )
        return answer == QMessageBox.StandardButton.Yes

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Files may be dropped anywhere."""
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Take dropped files in."""
        urls = event.mimeData().urls()
        self.take_in([Path(u.toLocalFile()) for u in urls if u.isLocalFile()])
        event.acceptProposedAction()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Hold a key for the source, and step keys, wherever the focus is but in a field."""
        if not isinstance(event, QKeyEvent) or not self.isActiveWindow():
            return False
        if isinstance(QApplication.focusWidget(), QLineEdit):
            return False
        if event.key() == SOURCE_KEY and not event.isAutoRepeat():
            if event.type() == QEvent.Type.KeyPress:
                self.trial_step.hold_source(self._steps.currentIndex() == TRIAL)
            elif event.type() == QEvent.Type.KeyRelease:
                self.trial_step.hold_source(False)
        return False

    def choose_files(self) -> None:
        """Ask for picture files."""
        patterns = " ".join(f"*{s} *{s.upper()}" for s in SUFFIXES)
        chosen, _ = QFileDialog.getOpenFileNames(
            self, "Add pictures", "", f"Pictures ({patterns});;All files (*)"
        )
        self.take_in([Path(c) for c in chosen])

    def _lay_out(self) -> None:
        middle = QHBoxLayout()
        middle.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(0)
        middle.addWidget(self.tray_view)
        middle.addWidget(self._steps, 1)
        whole = QWidget()
        inside = QVBoxLayout(whole)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(0)
        inside.addWidget(self.rail)
        inside.addLayout(middle, 1)
        inside.addWidget(self.status)
        self.setCentralWidget(whole)

    def _connect(self) -> None:
        self.rail.chosen.connect(self.open_step)
        self.tray_view.add_asked.connect(self.choose_files)
        self._loader.looked.connect(self.tray.set_found)
        self._loader.failed.connect(self.tray.set_error)
        self.tray.selected.connect(lambda _n: self._show_summary())
        self.tray.changed.connect(lambda _n: self._show_summary())
        self.trial_step.worked.connect(self.status.show_work)
        self.trial_step.said.connect(self._say)
        self.renderer.failed.connect(self._reading_failed)
        self.renderer.notices.connect(self._reading_noticed)
        self.status.cancel_asked.connect(self._cancel_work)
        self.deliver_step.ordered.connect(self._order)
        self.deliver_step.cancel_asked.connect(self._deliveries.cancel)
        self.deliver_step.pause_asked.connect(self._deliveries.pause)
        self._deliveries.started_job.connect(lambda n: self._job(n, State.RUNNING, "reading"))
        self._deliveries.progressed.connect(self._job_progressed)
        self._deliveries.delivered.connect(self._job_delivered)
        self._deliveries.failed.connect(lambda n, words: self._job(n, State.FAILED, words))
        self._deliveries.cancelled.connect(
            lambda n: self._job(n, State.CANCELLED, "cancelled, no file was written")
        )

    def _add_keys(self) -> None:
        for index in (SIZE, TRIAL, DELIVER):
            self._key(QKeySequence(str(index + 1)), lambda i=index: self.open_step(i))
        self._key(QKeySequence(QKeySequence.StandardKey.Open), self.choose_files)
        self._key(QKeySequence(QKeySequence.StandardKey.Quit), self.close)

    def _key(self, keys: QKeySequence, act) -> None:  # type: ignore[no-untyped-def]
        action = QAction(self)
        action.setShortcut(keys)
        action.triggered.connect(lambda _checked=False: act())
        self.addAction(action)

    def _show_summary(self) -> None:
        entry = self.tray.current
        if entry is not None and entry.size is not None:
            self.status.show_summary(summary(entry.size, self.size_step.panel.unit))

    def _say(self, words: str) -> None:
        if not self.jobs.open:
            self.status.show_idle(words)

    def _cancel_work(self) -> None:
        if self.jobs.open:
            for job in self.jobs.open:
                self._deliveries.cancel(job.number)
        else:
            self.trial_step.cancel()

    def _reading_failed(self, path: str, sentence: str) -> None:
        for entry in self.tray.entries:
            if str(entry.path) == path:
                self.tray.set_error(entry.number, sentence)
        self.trial_step.refresh()
        self.size_step.refresh()

    def _reading_noticed(self, path: str, notices: object) -> None:
        for entry in self.tray.entries:
            if str(entry.path) == path and isinstance(notices, tuple):
                self.tray.set_notices(entry.number, notices)

    def _order(self, job: Job) -> None:
        self._deliveries.put(Order(job.number, job.source, job.recipe))

    def _job(self, number: int, state: State, words: str) -> None:
        self.jobs.update(number, state=state, words=words)
        if not self.jobs.open:
            self.status.show_idle("All jobs have ended")

    def _job_progressed(self, number: int, fraction: float, words: str) -> None:
        self.jobs.update(number, state=State.RUNNING, fraction=fraction, words=words)
        name = self.jobs.rows[number].planned.name
        ended = sum(1 for j in self.jobs.rows if j not in self.jobs.open)
        total = len(self.jobs.rows)
        self.status.show_work((ended + fraction) / total, f"{ended + 1} of {total} · {name} · {words}")

    def _job_delivered(self, number: int, done) -> None:  # type: ignore[no-untyped-def]
        self.jobs.update(
            number,
            state=State.DONE,
            fraction=1.0,
            words=done.check.words(),
            result=done.path,
            file_bytes=done.check.file_bytes,
        )
        if not self.jobs.open:
            self.status.show_idle("All jobs have ended")
