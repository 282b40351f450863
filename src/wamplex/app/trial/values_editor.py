"""The values of the active trial, each with its effect and its suggestion."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QCheckBox, QLabel, QSlider, QVBoxLayout, QWidget

from wamplex.app.shared.bipolar_slider import BipolarSlider
from wamplex.app.shared.widgets import button, clear, label, row
from wamplex.app.tray.trials import Trial
from wamplex.core.analysis.suggestion.suggestions import Suggestions
from wamplex.core.model.upscale_values import Values
from wamplex.core.model.value_table import VALUES, ValueInfo, ValueName

# While a slider moves, results are asked for at most this often.
_SETTLE_MS = 180
_ANCHOR_LEVELS = 1.0


# Seldom needed, so they are shown where a movement was found, or when asked for.
_MOVEMENT: tuple[ValueName, ...] = ("motion_blur_px", "motion_blur_deg")


class ValuesEditor(QWidget):
    """Sliders and switches for what the trial's upscaler heeds."""

    chosen = Signal(object)  # Values, or None to set them back

    def __init__(self) -> None:
        super().__init__()
        self.sliders: dict[ValueName, QSlider] = {}
        self.switches: dict[ValueName, QCheckBox] = {}
        self.set_back = button("reset", "Reset to the suggested values", lambda: self.chosen.emit(None), "link")
        self._numbers: dict[ValueName, QLabel] = {}
        self._boxes: dict[ValueName, QWidget] = {}
        self.motion_row = button(
            "motion blur…",
            "Correct motion blur",
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
        self._show_description(trial, suggested, all_of_it)
        if values.motion_blur_px > 0:
            self._show_movement(True)
        self.set_back.setVisible(trial.values is not None and trial.values != suggested)

    def _build(self, trial: Trial) -> None:
        for widget in (self.set_back, self.motion_row):
            self._inside.removeWidget(widget)
            widget.setParent(None)
        clear(self._inside)
        self.sliders, self.switches, self._numbers, self.reasons, self._boxes = {}, {}, {}, {}, {}
        for name in trial.upscaler.values:
            if name in VALUES and VALUES[name].control == "slider":
                self._add_slider(name, VALUES[name])
        if _MOVEMENT[0] in self.sliders:
            self._inside.insertWidget(self._inside.indexOf(self._boxes[_MOVEMENT[0]]), self.motion_row)
            self._show_movement(False)
        for name in trial.upscaler.values:
            if name in VALUES and VALUES[name].control != "slider":
                self._add_switch(name, VALUES[name])
        self._inside.addWidget(self.set_back)

    def _add_slider(self, name: ValueName, info: ValueInfo) -> None:
        slider = BipolarSlider() if info.ends else QSlider(Qt.Orientation.Horizontal)
        slider.setRange(round(info.minimum), round(info.maximum))
        slider.setAccessibleName(info.label)
        slider.setToolTip(info.tooltip)
        slider.valueChanged.connect(partial(self._change, name))
        number = label("")
        inside = QWidget()
        lines = QVBoxLayout(inside)
        lines.setContentsMargins(0, 0, 0, 0)
        lines.setSpacing(3)
        lines.addLayout(row(label(info.label), None, number))
        lines.addWidget(slider)
        if info.ends:
            lines.addLayout(row(label(info.ends[0], "soft"), None, label(info.ends[1], "soft")))
        self.sliders[name], self._numbers[name], self._boxes[name] = slider, number, inside
        if name in ("noise", "compression", "blur", "texture_strength", "crispness"):
            self.reasons[name] = label("", "soft", wrap=True)
            lines.addWidget(self.reasons[name])
        self._inside.addWidget(inside)

    def _show_movement(self, shown: bool) -> None:
        for name in _MOVEMENT:
            self._boxes[name].setVisible(shown)
        self.motion_row.setVisible(not shown)

    def _add_switch(self, name: ValueName, info: ValueInfo) -> None:
        switch = QCheckBox(info.label)
        switch.setToolTip(info.tooltip)
        switch.setAccessibleName(info.label)
        switch.toggled.connect(partial(self._change, name))
        self._inside.addWidget(switch)
        self.switches[name] = switch

    def _change(self, name: ValueName, value: float | bool) -> None:
        if name == "back_projection_levels":
            value = _ANCHOR_LEVELS if value else None  # type: ignore[assignment]
        self._values = self._values.replace(**{name: value})
        self._show_numbers()
        self._timer.start()

    def _show_numbers(self) -> None:
        for name, number in self._numbers.items():
            number.setText(f"{getattr(self._values, name):.0f}{VALUES[name].unit}")

    def _show_description(self, trial: Trial, suggested: Values, all_of_it: Suggestions | None) -> None:
        self._show_numbers()
        for name, reason in self.reasons.items():
            text = "measuring the picture…"
            if all_of_it is not None:
                why = all_of_it.reason_for(trial.upscaler_key, trial.upscaler.values, name)
                text = f"Suggested {getattr(suggested, name):.0f}: {why}."
            reason.setText(text)
