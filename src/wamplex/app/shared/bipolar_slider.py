"""A slider with its zero in the centre, filled from there to either side."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSlider, QStyle, QStyleOptionSlider

from wamplex.app.shared import theme

_GROOVE_PX, _HANDLE_PX = 4, 13


class BipolarSlider(QSlider):
    """Range and keys as of any slider; only the looks differ."""

    def __init__(self) -> None:
        super().__init__(Qt.Orientation.Horizontal)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Groove, a mark in the middle, what lies between it and the handle, the handle."""
        option = QStyleOptionSlider()
        self.initStyleOption(option)
        handle = self.style().subControlRect(
            QStyle.ComplexControl.CC_Slider, option, QStyle.SubControl.SC_SliderHandle, self
        )
        painter = QPainter(self)
        centre, height = self.width() / 2, self.height() / 2
        x = handle.center().x() + 0.5
        groove = QRectF(0, height - _GROOVE_PX / 2, self.width(), _GROOVE_PX)
        painter.fillRect(groove, theme.colour(theme.RULE))
        painter.fillRect(QRectF(centre - 0.5, height - 5, 1, 10), theme.colour(theme.SOFT))
        filled = QRectF(min(x, centre), groove.y(), abs(x - centre), _GROOVE_PX)
        painter.fillRect(filled, theme.colour(theme.MOSS))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        edge = theme.MOSS if self.hasFocus() else theme.CONTROL_EDGE
        painter.setPen(QPen(theme.colour(edge), 1))
        painter.setBrush(theme.colour(theme.WHITE))
        knob = QRectF(x - _HANDLE_PX / 2, height - _HANDLE_PX / 2, _HANDLE_PX, _HANDLE_PX)
        painter.drawRoundedRect(knob, 2, 2)
