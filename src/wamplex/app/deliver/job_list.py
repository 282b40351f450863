"""The job list: creates rows only for the visible part of a thousand jobs."""

from __future__ import annotations

from collections.abc import Callable
from itertools import accumulate

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QResizeEvent, QShowEvent
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from wamplex.app.deliver.job_row import LEAST_HEIGHT, JobRow
from wamplex.app.shared.widgets import label, plain_widget

_MARGIN = 18
_BEYOND = 3 * LEAST_HEIGHT
# Many jobs come in portions: rows are made once no more come, which takes as long as a portion.
_STILL_MS = 50


class JobList(QScrollArea):
    """Rows below one another, each as high as its words need; one that was never seen counts as one line.

    A row is made of a dozen widgets: making and laying out a thousand took half a minute.

    Parameters
    ----------
    make : makes the row of a number, in the widget that is given
    """

    def __init__(self, make: Callable[[int, QWidget], JobRow]) -> None:
        super().__init__()
        self._make = make
        self._rows: dict[int, JobRow] = {}
        self._heights: list[int] = []
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # it follows what is reached in it
        self.setWidgetResizable(True)
        self._bench = plain_widget("bench")
        inside = QVBoxLayout(self._bench)
        inside.setContentsMargins(_MARGIN, _MARGIN, _MARGIN, _MARGIN)
        self._empty = label("No files yet. Press Deliver to write them.", "on-bench", wrap=True)
        inside.addWidget(self._empty)
        inside.addStretch(1)
        self.setWidget(self._bench)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._fill)
        self.verticalScrollBar().valueChanged.connect(self._fill)

    def __len__(self) -> int:
        return len(self._heights)

    def __getitem__(self, number: int) -> JobRow:
        """The row of a job, made now if it was not seen yet."""
        if not -len(self) <= number < len(self):
            raise IndexError(number)
        row = self._row(number % len(self))
        self._fill()
        return row

    def add(self, count: int) -> None:
        """Append rows for new jobs."""
        self._empty.hide()
        self._heights += [LEAST_HEIGHT] * count
        self._soon.start(_STILL_MS)

    def refresh(self, number: int) -> None:
        """A job has changed."""
        if number in self._rows:
            self._rows[number].refresh()
            if self._needed(self._rows[number]) != self._heights[number]:
                self._soon.start(0)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Words may need more or fewer lines."""
        super().resizeEvent(event)
        self._soon.start(0)

    def showEvent(self, event: QShowEvent) -> None:
        """Show the jobs that were added meanwhile."""
        super().showEvent(event)
        self._soon.start(0)

    def _row(self, number: int) -> JobRow:
        if number not in self._rows:
            row = self._rows[number] = self._make(number, self._bench)
            row.show()
        return self._rows[number]

    @property
    def _width(self) -> int:
        return max(self.viewport().width() - 2 * _MARGIN, 1)

    def _needed(self, row: JobRow) -> int:
        return max(LEAST_HEIGHT, row.heightForWidth(self._width))

    def _fill(self) -> None:
        """Make what is seen, and lay out what is made."""
        # Some more above and below, so that keys reach what is scrolled to next.
        top = self.verticalScrollBar().value() - _MARGIN - _BEYOND
        bottom = top + self.viewport().height() + 2 * _BEYOND
        ends = list(accumulate(self._heights))
        visible_rows = [n for n, end in enumerate(ends) if end >= top and end - self._heights[n] <= bottom]
        missing = [number for number in visible_rows if number not in self._rows]
        if missing:  # one, the others in the next turns of the window
            self._row(missing[0])
            self._soon.start(0)
        for number, row in self._rows.items():
            self._heights[number] = self._needed(row)
        below = [0, *accumulate(self._heights)]
        for number, row in self._rows.items():
            row.setGeometry(_MARGIN, _MARGIN + below[number], self._width, self._heights[number])
        self._bench.setMinimumHeight(below[-1] + 2 * _MARGIN)
