"""The values of the active trial, each with what it does and what is suggested."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QCheckBox, QLabel, QSlider, QVBoxLayout, QWidget

from wamplex.app.shared.bipolar_slider import BipolarSlider
from wamplex.app.shared.widgets import button, clear, label, row
from wamplex.app.tray.trials import Trial
from wamplex.core.analysis.report.suggestion import Suggestions
from wamplex.core.model.upscale_values import ValueName, Values

# While a slider moves, results are asked for at most this often.
_SETTLE_MS = 180
_ANCHOR_LEVELS = 1.0


@dataclass(frozen=True)
class _Words:
    name: str
    tip: str
    least: int = 0
    most: int = 100
    unit: str = ""
    ends: tuple[str, ...] = ()


_SLIDERS: dict[ValueName, _Words] = {
    "sensor_noise": _Words(
        "Sensor noise",
        "How much of the sensor's own noise is taken out while its mosaic is filled in: 100 takes out what "
        "was measured, 0 leaves all of it",
        unit=" %",
    ),
    "noise": _Words("Noise", "How much noise is taken out; too much leaves skin and stone like plastic"),
    "blocks": _Words("Compression", "How much of the JPEG's blocks and fringes is taken out"),
    "softness": _Words(
        "Sharpness of the source",
        "Right of the middle the source is soft, left of it sharpened too much: this is undone before it is "
        "enlarged. 50 stands for a blur of one pixel, -50 for an unsharp mask of 100 %; 0 leaves it as it is",
        least=-100,
        ends=("oversharpened", "soft"),
    ),
    "moved_px": _Words("Movement", "How far the camera moved, in pixels of the source: undone", most=12, unit=" px"),
    "moved_deg": _Words(
        "Along", "Direction of the movement, in degrees anticlockwise from the right", most=179, unit="°"
    ),
    "invention": _Words("Invention", "How much plausible texture is added; 0 adds none"),
    "keep_source": _Words("Keep source", "How much of the plainly enlarged source is mixed back in"),
}
# Seldom needed, so they are shown where a movement was found, or when asked for.
_MOVEMENT: tuple[ValueName, ...] = ("moved_px", "moved_deg")
_SWITCHES: dict[ValueName, _Words] = {
    "careful": _Words("Slow and careful", "Averages eight runs, flipped and turned: eight times as long"),
    "anchor_levels": _Words(
        "Anchor to the source", "Corrects the result until shrinking it gives the source back to one level"
    ),
}


class ValuesEditor(QWidget):
    """Sliders and switches for what the trial's upscaler heeds."""

    chosen = Signal(object)  # Values, or None to set them back

    def __init__(self) -> None:
        super().__init__()
        self.sliders: dict[ValueName, QSlider] = {}
        self.switches: dict[ValueName, QCheckBox] = {}
        self.set_back = button("set back", "Use the suggested values again", lambda: self.chosen.emit(None), "link")
        self._numbers: dict[ValueName, QLabel] = {}
        self._boxes: dict[ValueName, QWidget] = {}
        self.motion_row = button(
            "it moved ...",
            "Undo a blur that goes in one direction",
            lambda: self._show_movement(True),
            "link",
        )
        self._values = Values()
        self._which: tuple[str, str] | None = None
        self._inside = QVBoxLayout(self)
        self._inside.setContentsMargins(0, 2, 0, 0)
        self._inside.setSpacing(3)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_SETTLE_MS)
        self._timer.timeout.connect(lambda: self.chosen.emit(self._values))
        self.reasons: dict[ValueName, QLabel] = {}

    def show_values(self, trial: Trial, values: Values, suggested: Values, all_of_it: Suggestions | None) -> None:
        """Show a trial's values; the controls are made anew for another upscaler."""
        which = (trial.letter, trial.upscaler_key)
        if which != self._which:
            self._which = which
            self._build(trial)
        if not self._timer.isActive():
            self._values = values
            for name, slider in self.sliders.items():
                slider.blockSignals(True)
                slider.setValue(round(getattr(values, name)))
                slider.blockSignals(False)
            for name, switch in self.switches.items():
                switch.blockSignals(True)
                switch.setChecked(getattr(values, name) not in (None, False))
                switch.blockSignals(False)
        self._show_description(suggested, all_of_it)
        if values.moved_px > 0:
            self._show_movement(True)
        self.set_back.setVisible(trial.values is not None and trial.values != suggested)

    def _build(self, trial: Trial) -> None:
        for widget in (self.set_back, self.motion_row):
            self._inside.removeWidget(widget)
            widget.setParent(None)
        clear(self._inside)
        self.sliders, self.switches, self._numbers, self.reasons, self._boxes = {}, {}, {}, {}, {}
        for name in trial.upscaler.values:
            if name in _SLIDERS:
                self._add_slider(name, _SLIDERS[name])
        if _MOVEMENT[0] in self.sliders:
            self._inside.insertWidget(self._inside.indexOf(self._boxes[_MOVEMENT[0]]), self.motion_row)
            self._show_movement(False)
        for name in trial.upscaler.values:
            if name in _SWITCHES:
                self._add_switch(name, _SWITCHES[name])
        self._inside.addWidget(self.set_back)

    def _add_slider(self, name: ValueName, text: _Words) -> None:
        slider = BipolarSlider() if text.least < 0 else QSlider(Qt.Orientation.Horizontal)
        slider.setRange(text.least, text.most)
        slider.setAccessibleName(text.name)
        slider.setToolTip(text.tip)
        slider.valueChanged.connect(partial(self._change, name))
        number = label("")
        inside = QWidget()
        lines = QVBoxLayout(inside)
        lines.setContentsMargins(0, 0, 0, 0)
        lines.setSpacing(3)
        lines.addLayout(row(label(text.name), None, number))
        lines.addWidget(slider)
        if text.ends:
            lines.addLayout(row(label(text.ends[0], "soft"), None, label(text.ends[1], "soft")))
        self.sliders[name], self._numbers[name], self._boxes[name] = slider, number, inside
        if name in ("noise", "blocks", "softness", "invention"):
            self.reasons[name] = label("", "soft", wrap=True)
            lines.addWidget(self.reasons[name])
        self._inside.addWidget(inside)

    def _show_movement(self, shown: bool) -> None:
        for name in _MOVEMENT:
            self._boxes[name].setVisible(shown)
        self.motion_row.setVisible(not shown)

    def _add_switch(self, name: ValueName, text: _Words) -> None:
        switch = QCheckBox(text.name)
        switch.setToolTip(text.tip)
        switch.setAccessibleName(text.name)
        switch.toggled.connect(partial(self._change, name))
        self._inside.addWidget(switch)
        self.switches[name] = switch

    def _change(self, name: ValueName, value: float | bool) -> None:
        if name == "anchor_levels":
            value = _ANCHOR_LEVELS if value else None  # type: ignore[assignment]
        self._values = self._values.replace(**{name: value})
        self._show_numbers()
        self._timer.start()

    def _show_numbers(self) -> None:
        for name, number in self._numbers.items():
            number.setText(f"{getattr(self._values, name):.0f}{_SLIDERS[name].unit}")

    def _show_description(self, suggested: Values, all_of_it: Suggestions | None) -> None:
        self._show_numbers()
        for name, reason in self.reasons.items():
            text = "measuring the picture ..."
            if all_of_it is not None:
                text = f"Suggested {getattr(suggested, name):.0f}: {all_of_it.reasons[name]}."
            reason.setText(text)
