"""Panel for developing raw files: white balance, exposure, highlights, tones, working space."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QMenu, QPushButton, QVBoxLayout, QWidget

from wamplex.app.shared.value_slider import ValueSlider
from wamplex.app.shared.widgets import button, label, row
from wamplex.core.analysis.report.sensor_exposure import SensorExposure
from wamplex.core.model.development import (
    CURVE_WORDS,
    HIGHLIGHT_WORDS,
    METHOD_WORDS,
    SPACE_WORDS,
    Development,
    Light,
)
from wamplex.core.raw.camera_colours import illuminant_in_camera

_CHOICES: dict[str, tuple[str, str, Mapping[Any, str]]] = {
    "method": (
        "Mosaic",
        "Demosaicing method. Tessera does not need one",
        METHOD_WORDS,
    ),
    "highlights": (
        "Highlights",
        "Clipped highlights. Clip: white. Blend: keep their brightness. Rebuild: restore a clipped channel "
        "from the others",
        HIGHLIGHT_WORDS,
    ),
    "curve": ("Tones", "Linear up to white, or a soft shoulder in the highlights", CURVE_WORDS),
    "space": ("Space", "Working colour space. The file carries its profile", SPACE_WORDS),
}


class DevelopmentPanel(QWidget):
    """Emits what the user asks for; changes no decision itself."""

    changed = Signal(object, str)  # Development, words
    pick_asked = Signal(bool)  # whether the next press on the picture picks a grey

    def __init__(self) -> None:
        super().__init__()
        self._development = Development()
        self.kelvin = ValueSlider(
            "Light",
            "Colour temperature of the light: lower for warm light, higher for cold light",
            12000,
            "K",
            minimum=2000,
            step=50,
        )
        self.tint = ValueSlider(
            "Tint",
            "Tint: above 0 for greenish light",
            50,
            minimum=-50,
            step=1,
        )
        self.exposure = ValueSlider("Exposure", "Brighter or darker, in stops", 6, "EV", minimum=-4, step=0.05)
        self.as_shot = button("As shot", "Use the camera's own white balance", self._use_as_shot, "link")
        self.pick = button("Pick grey", "Then click something in the picture that should be neutral grey", self._pick)
        self.pick.setCheckable(True)
        self.choices = {name: self._choice(name) for name in _CHOICES}
        self._whence = label("", "soft", wrap=True)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 6)
        inside.setSpacing(6)
        inside.addWidget(label("Developing", "heading"))
        for part in (self.kelvin, self.tint):
            inside.addWidget(part)
        inside.addLayout(row(self.pick, self.as_shot, None, spacing=6))
        inside.addWidget(self._whence)
        inside.addWidget(self.exposure)
        for name, chooser in self.choices.items():
            inside.addLayout(row(label(_CHOICES[name][0]), None, chooser))
        self.kelvin.moved.connect(lambda kelvin: self._set_light(kelvin, self.tint.value))
        self.tint.moved.connect(lambda tint: self._set_light(self.kelvin.value, tint))
        self.exposure.moved.connect(lambda value: self._change("exposure", exposure_ev=value))

    def show_development(self, development: Development, exposure: SensorExposure, *, picking: bool) -> None:
        """Show what is decided, and where the balance comes from."""
        self._development = development
        light = _light_of(development, exposure)
        self.kelvin.show_value(round(light.kelvin / 50) * 50)
        self.tint.show_value(round(light.tint) + 0.0)
        self.exposure.show_value(development.exposure_ev)
        self.pick.setChecked(picking)
        self.as_shot.setVisible(development.light is not None or development.neutral is not None)
        if development.light is not None:
            text = "White balance: as you set it."
        elif development.neutral is not None:
            text = "White balance: from the grey you picked."
        else:
            text = "White balance: as shot."
        self._whence.setText(text)
        for name, chooser in self.choices.items():
            chooser.setText(_CHOICES[name][2][getattr(development, name)])
        self.choices["method"].setEnabled(exposure.mosaic)

    def _choice(self, name: str) -> QPushButton:
        title, tip, _ = _CHOICES[name]
        choice_button = button("", tip, partial(self._choose, name))
        choice_button.setAccessibleName(title)
        return choice_button

    def _choose(self, name: str) -> None:
        menu = QMenu(self)
        title, _, text = _CHOICES[name]
        for value, shown in text.items():
            action = menu.addAction(shown)
            action.setCheckable(True)
            action.setChecked(value == getattr(self._development, name))
            action.triggered.connect(lambda _checked=False, value=value: self._change(title.lower(), **{name: value}))
        chooser = self.choices[name]
        menu.popup(chooser.mapToGlobal(chooser.rect().bottomLeft()))

    def _set_light(self, kelvin: float, tint: float) -> None:
        self._change("light", light=Light(kelvin=kelvin, tint=tint), neutral=None)

    def _use_as_shot(self) -> None:
        self._change("light as shot", light=None, neutral=None)

    def _pick(self) -> None:
        self.pick_asked.emit(self.pick.isChecked())

    def _change(self, text: str, **changes: object) -> None:
        self.changed.emit(self._development.replace(**changes), text)


def _light_of(development: Development, exposure: SensorExposure) -> Light:
    """The light that the present balance stands for."""
    if development.light is not None:
        return development.light
    if development.neutral is not None:
        return illuminant_in_camera(exposure.colours, (development.neutral[0], 1.0, development.neutral[1]))
    return exposure.light
