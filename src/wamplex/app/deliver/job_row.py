"""One line of the job list."""

from __future__ import annotations

from PySide6.QtCore import QMimeData, QPoint, Qt, QUrl, Signal
from PySide6.QtGui import QDesktopServices, QDrag, QMouseEvent
from PySide6.QtWidgets import QApplication, QFrame, QHBoxLayout, QProgressBar, QSizePolicy, QWidget

from wamplex.app.deliver.jobs import JobRowData
from wamplex.app.shared.widgets import allow_line_breaks, button, label, restyle
from wamplex.core.geometry.size_text import byte_size_text
from wamplex.core.workflow.queue.job import ENDED, State
from wamplex.core.workflow.queue.throughput import duration_text

LEAST_HEIGHT = 38
# "318 MB", and "about 318 MB, 1 h 20 min" on two lines.
_SIZE_PX, _EXPECTED_PX = 60, 104


class JobRow(QFrame):
    """Name, state in words, progress, and what can be done about it."""

    cancel_asked = Signal(int)
    retry_asked = Signal(int)
    further_asked = Signal(object)  # path
    look_asked = Signal(int)
    first_asked = Signal(int)

    def __init__(self, job: JobRowData, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._job = job
        self._pressed = QPoint()
        self.setMinimumHeight(LEAST_HEIGHT)
        self._name = label("", "small-strong", wrap=True)
        self._name.setFixedWidth(190)
        self._text = label("", "", wrap=True)
        self._text.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self._bar = QProgressBar()
        self._bar.setFixedWidth(120)
        self._bar.setRange(0, 1000)
        self._bar.setTextVisible(False)
        self._size = label("", "soft")
        self.act = button("cancel", "Stop this job", self._do, "link")
        self.look = button("look", "Compare the file with its source at the spots", self._ask_look, "link")
        self.first = button("do next", "Write this file before the other waiting files", self._ask_first, "link")
        self.further = button(
            "enlarge further",
            "Add the result to the tray as a new picture",
            self._enlarge_further,
            "link",
        )
        inside = QHBoxLayout(self)
        inside.setContentsMargins(10, 6, 10, 6)
        inside.setSpacing(10)
        inside.addWidget(self._name)
        inside.addWidget(self._text, 1)
        for part in (self._bar, self._size, self.first, self.look, self.further, self.act):
            inside.addWidget(part)
        self.refresh()

    @property
    def text(self) -> str:
        """The state in words."""
        return self._job.text

    def refresh(self) -> None:
        """Show the job's present state."""
        job = self._job
        restyle(self, "job-failed" if job.state is State.FAILED else "job")
        name = (job.result or job.name).name
        self._name.setText(allow_line_breaks(name))
        self._text.setText(allow_line_breaks(job.text))
        self._bar.setValue(round(1000 * job.fraction))
        self._bar.setVisible(job.state in (State.RUNNING, State.WAITING))
        self._size.setFixedWidth(_SIZE_PX if job.state in ENDED else _EXPECTED_PX)
        expected = "" if job.state in ENDED else _expected(job)
        self._size.setText(byte_size_text(job.file_bytes) if job.state is State.DONE else expected)
        text, tip = {
            State.DONE: ("open folder", "Open the folder of the file"),
            State.FAILED: ("try again", "Deliver this picture again"),
            State.CANCELLED: ("try again", "Deliver this picture again"),
        }.get(job.state, ("cancel", "Stop this job"))
        there = job.state is State.DONE and job.result is not None
        self.further.setVisible(there)
        self.look.setVisible(there)
        self.first.setVisible(job.state is State.WAITING)
        self.first.setAccessibleName(f"do next: {name}")
        self.look.setAccessibleName(f"look: {name}")
        self.act.setText(text)
        self.act.setToolTip(tip)
        self.act.setAccessibleName(f"{text}: {job.name.name}")
        self.setAccessibleName(f"{name}: {job.text}")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Remember where a drag would begin."""
        self._pressed = event.position().toPoint()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """A finished file can be dragged out, onto another program."""
        path, far = self._job.result, QApplication.startDragDistance()
        if path is None or (event.position().toPoint() - self._pressed).manhattanLength() < far:
            return
        drag, data = QDrag(self), QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(path))])
        drag.setMimeData(data)
        drag.exec(Qt.DropAction.CopyAction)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """See the file beside its source."""
        if self.look.isVisible():
            self._ask_look()

    def _ask_first(self) -> None:
        self.first_asked.emit(self._job.number)

    def _ask_look(self) -> None:
        self.look_asked.emit(self._job.number)

    def _enlarge_further(self) -> None:
        self.further_asked.emit(self._job.result)

    def _do(self) -> None:
        if self._job.state is State.DONE and self._job.result is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(self._job.result.parent)))
        elif self._job.state in ENDED:
            self.retry_asked.emit(self._job.number)
        else:
            self.cancel_asked.emit(self._job.number)


def _expected(job: JobRowData) -> str:
    time = "" if job.expected_s is None else f", {duration_text(job.expected_s)}"
    return f"about {byte_size_text(job.expected_bytes)}{time}"
