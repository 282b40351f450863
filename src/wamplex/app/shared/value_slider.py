"""A named slider with a field beside it."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QSlider, QVBoxLayout, QWidget

from wamplex.app.shared.number_field import NumberField
from wamplex.app.shared.widgets import label, row, set_tooltip

# While a slider moves, results are asked for at most this often.
_SETTLE_MS = 120


class ValueSlider(QWidget):
    """Tells the value some time after it moved last, or at once when a number was entered.

    Parameters
    ----------
    minimum, maximum : ends of the slider; the field takes the same range
    step : what a step of the slider is worth
    """

    moved = Signal(float)

    def __init__(
        self, name: str, tip: str, maximum: float, unit: str = "", *, minimum: float = 0.0, step: float = 1.0
    ) -> None:
        super().__init__()
        self._minimum, self._max_count, self._step = minimum, maximum, step
        self._decimals = 0 if step >= 1 else 1 if step >= 0.1 else 2
        self.field = NumberField(name, tip, 52, minimum=minimum)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(round(minimum / step), round(maximum / step))
        set_tooltip(self.slider, f"{name}, slider", tip)
        self._text = label(name, "")
        self._text.setToolTip(tip)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(1)
        inside.addLayout(row(self._text, None, self.field, label(unit, "small"), spacing=4))
        inside.addWidget(self.slider)
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.setInterval(_SETTLE_MS)
        self._settle.timeout.connect(lambda: self.moved.emit(self.value))
        self.slider.valueChanged.connect(self._slid)
        self.field.entered.connect(self._entered)
        self._showing = False

    @property
    def value(self) -> float:
        """Value of the slider."""
        return self.slider.value() * self._step

    def show_value(self, value: float) -> None:
        """Show a value without telling; a slider that is held stays where it is."""
        if self.slider.isSliderDown() or self._settle.isActive():
            return
        self._showing = True
        self.slider.setValue(round(value / self._step))
        self.field.show_number(value, self._decimals)
        self._showing = False

    def _slid(self) -> None:
        self.field.show_number(self.value, self._decimals)
        if not self._showing:
            self._settle.start()

    def _entered(self, value: float) -> None:
        self._settle.stop()
        self.moved.emit(min(max(value, self._minimum), self._max_count))
