"""The line at the bottom: the work under way, and what the result comes to."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QWidget

from wamplex.app import theme
from wamplex.app.shared.parts import button, label

_BAR_MS = 80
_LINGER_MS = 400


class StatusLine(QWidget):
    """Progress with words and a cancel link at the left, a summary at the right."""

    cancel_asked = Signal()
    colours_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("role", "status")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground, True)
        self.setFixedHeight(theme.STATUS_HEIGHT)
        self._bar = QProgressBar()
        self._bar.setFixedWidth(150)
        self._bar.setRange(0, 1000)
        self._bar.setTextVisible(False)
        self._bar.setAccessibleName("Progress of the work under way")
        # The bar paints at once, and with it all else that waits to be painted: not for every step.
        self._fraction = 0.0
        self._moving = QTimer(self)
        self._moving.setSingleShot(True)
        self._moving.setInterval(_BAR_MS)
        self._moving.timeout.connect(lambda: self._bar.setValue(round(1000 * self._fraction)))
        self._words = label("Ready")
        self._cancel = button("cancel", "Stop the work under way", self.cancel_asked.emit, "link")
        self._summary = label("")
        inside = QHBoxLayout(self)
        inside.setContentsMargins(theme.SPACE, 0, theme.SPACE, 0)
        inside.setSpacing(12)
        # Work often goes on in a moment: words that jump to and fro are hard to read, and each time the whole
        # window is laid out anew.
        self._lingering = QTimer(self)
        self._lingering.setSingleShot(True)
        self._lingering.setInterval(_LINGER_MS)
        self._lingering.timeout.connect(lambda: self._show_bar(False))
        inside.addWidget(self._bar)
        inside.addWidget(self._cancel)
        inside.addWidget(_Still(self._words), 1)
        inside.addWidget(self._summary)
        self.colours = button(
            "", "How colours are shown: the screen, and the proof of a print", self.colours_asked.emit, "link"
        )
        inside.addWidget(self.colours)
        self._show_bar(False)

    @property
    def words(self) -> str:
        """The words at the left."""
        return self._words.text()

    @property
    def summary(self) -> str:
        """The words at the right."""
        return self._summary.text()

    def show_work(self, fraction: float, words: str) -> None:
        """Work goes on."""
        self._lingering.stop()
        self._show_bar(True)
        self._fraction = fraction
        if not self._moving.isActive():
            self._moving.start()
        self._words.setText(words)

    def show_idle(self, words: str) -> None:
        """No work goes on."""
        if not self._lingering.isActive():
            self._lingering.start()
            self._moving.stop()
            self._bar.setValue(self._bar.maximum())
        self._words.setText(words)

    def show_colours(self, words: str) -> None:
        """On which screen colours are shown, and as which print."""
        self.colours.setText(words)
        self.colours.setAccessibleName(words)

    def show_summary(self, words: str) -> None:
        """What the selected picture's result comes to."""
        self._summary.setText(words)

    def _show_bar(self, shown: bool) -> None:
        self._bar.setVisible(shown)
        self._cancel.setVisible(shown)


class _Still(QWidget):
    """Room for words that change often; what there is no room for is cut off.

    Without a layout around them, other words do not have the whole window laid out anew (2 to 3 ms).
    """

    def __init__(self, words: QLabel) -> None:
        super().__init__()
        self._words = words
        words.setParent(self)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """More or less room."""
        self._words.setGeometry(self.rect())
