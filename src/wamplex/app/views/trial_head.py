"""The head of a trial's pane: letter, name, strike, and the stamp."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QWidget

from wamplex.app import theme
from wamplex.app.models.trials import Trial
from wamplex.app.views.parts import button, label

_STAMP_WIDTH = 74


class TrialHead(QWidget):
    """Pressing it makes its trial the active one."""

    activated = Signal()
    strike_asked = Signal()

    def __init__(self, trial: Trial) -> None:
        super().__init__()
        self.setFixedHeight(30)
        self.setMinimumWidth(60)
        self._letter = trial.letter
        self._name_words = trial.upscaler.name
        self._active = False
        self._stamped = False
        self._source_held = False
        self._name = label(trial.upscaler.name, "trial-name")
        self._name.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._strike = button(
            "strike", f"Drop trial {trial.letter} from the comparison", self.strike_asked.emit, "link"
        )
        self._strike.setAccessibleName(f"Strike trial {trial.letter}")
        inside = QHBoxLayout(self)
        inside.setContentsMargins(31, 0, 5, 0)
        inside.setSpacing(4)
        inside.addWidget(self._name, 1)
        inside.addWidget(self._strike)
        self.setToolTip(f"{trial.upscaler.name}. {trial.upscaler.purpose}")

    def mark(self, active: bool, stamped: bool) -> None:
        """Show whether the panel speaks of it, and whether it is the chosen one."""
        self._active, self._stamped = active, stamped
        self.update()

    def allow_strike(self, allowed: bool) -> None:
        """The last trial cannot be struck."""
        self._strike.setVisible(allowed)

    def show_source(self, held: bool) -> None:
        """Say that the pane shows the source for now."""
        self._source_held = held
        self._show_name()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Make it the active one."""
        self.activated.emit()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Card, letter square, mark of the active one, stamp."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.colour(theme.CARD))
        square = QRectF(4, 4, 22, 22)
        painter.fillRect(square, theme.colour(theme.MOSS if self._stamped else theme.INK))
        painter.setPen(theme.colour(theme.WHITE))
        painter.setFont(theme.font(14, heading=True))
        painter.drawText(square, Qt.AlignmentFlag.AlignCenter, self._letter)
        if self._active:
            painter.fillRect(QRectF(0, self.height() - 3, self.width(), 3), theme.colour(theme.MOSS))
        if self._stamped and self._room_for_stamp() >= _STAMP_WIDTH:
            self._paint_stamp(painter)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """A narrow head shows less of the name."""
        self._show_name()

    def _show_name(self) -> None:
        words = "the source" if self._source_held else self._name_words
        room = self._right_end() - 34
        self._name.setText(self._name.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, room))

    def _right_end(self) -> int:
        taken = self._strike.sizeHint().width() + 9 if not self._strike.isHidden() else 5
        return self.width() - taken

    def _room_for_stamp(self) -> int:
        return self._right_end() - 34 - self._name.fontMetrics().horizontalAdvance(self._name.text())

    def _paint_stamp(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(0, 0, _STAMP_WIDTH - 8, 17)
        painter.translate(self._right_end() - _STAMP_WIDTH, 8)
        painter.rotate(-4)
        painter.setPen(QPen(theme.colour(theme.MOSS), 1.6))
        painter.setBrush(theme.colour(theme.CARD))
        painter.drawRect(box)
        stamp = theme.font(12, heading=True)
        painter.setFont(stamp)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "STAMPED")
