"""The head of a trial's column: letter, name, strike, readings as bars, and the stamp."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QGridLayout, QSizePolicy, QWidget

from wamplex.app.shared import theme
from wamplex.app.shared.widgets import button, label
from wamplex.app.tray.trials import Trial
from wamplex.app.trial.readings_model import Standing
from wamplex.app.trial.scene import Scene

_STAMP_WIDTH = 74
_DOT_PX = 9
_BARS_HEIGHT = 26
_BARRED = (
    "stair-steps",
    "ringing",
    "softness",
    "noise",
    "block-marks",
    "blotches",
    "repeated-pattern",
    "round-trip",
)


class TrialHead(QWidget):
    """Pressing it makes its trial the active one."""

    activated = Signal()
    strike_asked = Signal()

    def __init__(self, scene: Scene, trial: Trial, *, with_bars: bool = False) -> None:
        super().__init__()
        self.setFixedHeight(30 + (_BARS_HEIGHT if with_bars else 0))
        self._with_bars = with_bars
        self._standings: list[Standing] = []
        self.setMinimumWidth(60)
        self._letter = trial.letter
        self._mark, self._name_text = scene.mark(trial), scene.name(trial)
        self._active = False
        self._stamped = False
        self._suggested = scene.is_suggested(trial) and scene.entry.trials.stamped is None
        self._source_pressed = False
        self._name = label(self._name_text, "trial-name")
        self._name.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._strike = button("strike", f"Drop trial {self._mark} from the comparison", self.strike_asked.emit, "link")
        self._strike.setAccessibleName(f"Strike trial {self._mark}")
        inside = QGridLayout(self)
        inside.setContentsMargins(31, 4, 5, 4)
        inside.setHorizontalSpacing(4)
        inside.setColumnStretch(0, 1)
        inside.addWidget(self._name, 0, 0, 1, 2 if with_bars else 1)
        # Where bars are, the narrow head has no room beside the name.
        inside.addWidget(self._strike, int(with_bars), 1, Qt.AlignmentFlag.AlignRight)
        self._warning = scene.warning(trial)
        self._about = scene.about(trial) + (f"\n{self._warning}" if self._warning else "")
        self.setToolTip(self._about)

    def mark(self, active: bool, stamped: bool) -> None:
        """Show whether the panel speaks of it, and whether it is the chosen one."""
        self._active, self._stamped = active, stamped
        self.update()

    def show_standings(self, standings: list[Standing]) -> None:
        """Show the trial's readings as bars against the other trials'."""
        self._standings = [s for s in standings if s.reading.key in _BARRED and self._letter in s.values]
        lines = [f"{s.reading.name} {s.values[self._letter]:.2f} {s.reading.unit}" for s in self._standings]
        self.setToolTip("\n".join([self._about, *lines]))
        self.update()

    def allow_strike(self, allowed: bool) -> None:
        """The last trial cannot be struck."""
        self._strike.setVisible(allowed)

    def show_source(self, pressed: bool) -> None:
        """Say that the pane shows the source for now."""
        self._source_pressed = pressed
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
        if self._warning:
            painter.fillRect(QRectF(0, 0, self.width(), 3), theme.colour(theme.AMBER))
        painter.setPen(theme.colour(theme.ON_INK))
        painter.setFont(theme.font(14, heading=True))
        painter.drawText(square, Qt.AlignmentFlag.AlignCenter, self._mark)
        if self._active:
            painter.fillRect(QRectF(0, self.height() - 3, self.width(), 3), theme.colour(theme.MOSS))
        self._paint_bars(painter)
        if self._stamped and self._stamp_width() >= _STAMP_WIDTH:
            self._paint_stamp(painter)
        elif self._suggested:
            self._paint_suggested(painter)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """A narrow head shows less of the name."""
        self._show_name()

    def _show_name(self) -> None:
        text = "the source" if self._source_pressed else self._name_text
        right_edge = self._right_end() - 34
        self._name.setText(self._name.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, right_edge))

    def _right_end(self) -> int:
        if self._with_bars or self._strike.isHidden():
            return self.width() - 5
        return self.width() - self._strike.sizeHint().width() - 9

    def _stamp_width(self) -> int:
        return self._right_end() - 34 - self._name.fontMetrics().horizontalAdvance(self._name.text())

    def _paint_bars(self, painter: QPainter) -> None:
        """A bar a reading: as high as its share of the largest; amber where the trial is clearly worst."""
        if not self._standings:
            return
        floor, maximum = self.height() - 6, _BARS_HEIGHT - 6
        bar_width = self.width() - self._strike.sizeHint().width() - 20
        width = max(2.0, min(16.0, bar_width / len(_BARRED) - 2))
        for number, standing in enumerate(self._standings):
            largest = max(standing.values.values()) or 1.0
            fraction = standing.values[self._letter] / largest
            worst = standing.worst == self._letter
            height = max(1.0, maximum * fraction)
            bar = QRectF(8 + number * (width + 2), floor - height, width, height)
            painter.fillRect(bar, theme.colour(theme.AMBER if worst else theme.BAR_INK))

    def _paint_suggested(self, painter: QPainter) -> None:
        """The word; in a narrow head a dot, which the tooltip explains."""
        if self._stamp_width() >= _STAMP_WIDTH:
            painter.setPen(theme.colour(theme.MOSS))
            painter.setFont(theme.font(12))
            place = QRectF(self._right_end() - _STAMP_WIDTH, 4, _STAMP_WIDTH - 4, 22)
            painter.drawText(place, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, "suggested")
        elif self._stamp_width() >= _DOT_PX + 4:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour(theme.MOSS))
            painter.drawEllipse(QRectF(self._right_end() - _DOT_PX - 2, 15 - _DOT_PX / 2, _DOT_PX, _DOT_PX))

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
