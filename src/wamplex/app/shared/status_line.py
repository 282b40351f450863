"""The line at the bottom: the work under way, and what the result comes to."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QWidget

from wamplex.app.shared import theme
from wamplex.app.shared.widgets import button, label

_BAR_MS = 80
_LINGER_MS = 400
_BETWEEN, _BAR_PX = 12, 150


class StatusLine(QWidget):
    """Progress with words and a cancel link at the left, a summary at the right."""

    cancel_asked = Signal()
    colours_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("role", "status")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground, True)
        self.setFixedHeight(theme.STATUS_HEIGHT)
        self._work = _Work(self.cancel_asked.emit)
        # The bar paints at once, and with it all else that waits to be painted: not for every step.
        self._fraction = 0.0
        self._moving = QTimer(self)
        self._moving.setSingleShot(True)
        self._moving.setInterval(_BAR_MS)
        self._moving.timeout.connect(lambda: self._work.bar.setValue(round(1000 * self._fraction)))
        self._summary = label("")
        inside = QHBoxLayout(self)
        inside.setContentsMargins(theme.SPACE, 0, theme.SPACE, 0)
        inside.setSpacing(_BETWEEN)
        # Work often goes on in a moment: words that jump to and fro are hard to read.
        self._lingering = QTimer(self)
        self._lingering.setSingleShot(True)
        self._lingering.setInterval(_LINGER_MS)
        self._lingering.timeout.connect(lambda: self._work.show_bar(False))
        inside.addWidget(self._work, 1)
        inside.addWidget(self._summary)
        self.colours = button("", "Colour management: screen profile and soft proof", self.colours_asked.emit, "link")
        inside.addWidget(self.colours)

    @property
    def text(self) -> str:
        """The words at the left."""
        return self._work.text.text()

    @property
    def summary(self) -> str:
        """The words at the right."""
        return self._summary.text()

    def show_work(self, fraction: float, text: str) -> None:
        """Work goes on."""
        self._lingering.stop()
        self._work.show_bar(True)
        self._fraction = fraction
        if not self._moving.isActive():
            self._moving.start()
        self._work.text.setText(text)

    def show_idle(self, text: str) -> None:
        """No work goes on."""
        if not self._lingering.isActive():
            self._lingering.start()
            self._moving.stop()
            self._work.bar.setValue(self._work.bar.maximum())
        self._work.text.setText(text)

    def show_colours(self, text: str) -> None:
        """On which screen colours are shown, and as which print."""
        self.colours.setText(text)
        self.colours.setAccessibleName(text)

    def show_summary(self, text: str) -> None:
        """Show size and print size of the selected picture."""
        self._summary.setText(text)


class _Work(QWidget):
    """The bar, what stops the work, and words that change often; what there is no room for is cut off.

    Without a layout around them, other words and a bar that comes and goes do not have the whole window laid
    out anew (3 to 13 ms).

    Parameters
    ----------
    stop : stops the work
    """

    def __init__(self, stop: Callable[[], object]) -> None:
        super().__init__()
        self.bar = QProgressBar(self)
        self.bar.setRange(0, 1000)
        self.bar.setTextVisible(False)
        self.bar.setAccessibleName("Progress of the work under way")
        self.cancel = button("cancel", "Stop the work under way", stop, "link")
        self.cancel.setParent(self)
        self.text = label("Ready")
        self.text.setParent(self)
        self.show_bar(False)

    def show_bar(self, shown: bool) -> None:
        """Work goes on, or no more."""
        if shown != self.bar.isVisibleTo(self):
            self.bar.setVisible(shown)
            self.cancel.setVisible(shown)
            self._arrange()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """More or less room."""
        self._arrange()

    def _arrange(self) -> None:
        """Beside one another, in the middle of the height."""
        left = 0
        if self.bar.isVisibleTo(self):
            for part, width in ((self.bar, _BAR_PX), (self.cancel, self.cancel.sizeHint().width())):
                height = min(part.sizeHint().height(), part.maximumHeight(), self.height())
                part.setGeometry(left, (self.height() - height) // 2, width, height)
                left += width + _BETWEEN
        self.text.setGeometry(left, 0, max(self.width() - left, 0), self.height())
