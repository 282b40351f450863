"""Panel for the surface: tone from a reference, sharpening for print, grain."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QMenu, QPushButton, QVBoxLayout, QWidget

from wamplex.app.shared.value_slider import ValueSlider
from wamplex.app.shared.widgets import button, label, row
from wamplex.app.tray.entry import TrayEntry
from wamplex.core.finish.sharpen_stage import suggested_radius_mm
from wamplex.core.model.finish_values import Finish, Grain, Mask, Sharpen

_SHARPEN = (
    ("amount", "Sharpen for print", "Amount of sharpening; 0 is none", 300.0, "%", 1.0),
    ("radius_mm", "Radius", "Radius on paper", 1.0, "mm", 0.01),
    (
        "floor",
        "Floor",
        "Threshold: contrast up to this many levels is left alone, such as noise",
        10.0,
        "levels",
        0.1,
    ),
    (
        "halo_limit",
        "Halo limit",
        "Halo limit: how far an edge may go beyond its surroundings",
        40.0,
        "levels",
        1.0,
    ),
)
_GRAIN = (
    ("amount", "Grain", "Amount of grain, as a standard deviation; 0 is none", 20.0, "levels", 0.1),
    ("size_mm", "Grain size", "Grain size on paper", 1.0, "mm", 0.01),
    ("roughness", "Roughness", "Share of grain of half this size", 100.0, "%", 1.0),
    ("shadows", "in shadows", "Grain in the shadows", 100.0, "%", 1.0),
    ("midtones", "in midtones", "Grain in the midtones", 100.0, "%", 1.0),
    ("lights", "in highlights", "Grain in the highlights", 100.0, "%", 1.0),
)
# Noise of the source that a smooth result lacks, and that grain gives back (own choice, by looking).
_SHARE_OF_NOISE, _LEAST_LEVELS, _MOST_LEVELS = 0.7, 1.5, 6.0


class SurfacePart(QWidget):
    """Emits what the user asks for; changes no decision itself."""

    sharpen_changed = Signal(str, object)  # field, value
    grain_changed = Signal(str, object)
    where_asked = Signal(str, str)  # sharpen, grain or tone; everywhere, layer or not-layer
    tone_changed = Signal(float)  # strength
    reference_asked = Signal(object, bool)  # number of an entry or None for a file; whether colour comes along
    tone_dropped = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._entries: list[TrayEntry] = []
        self.sharpen = {text[0]: _slider(*text[1:]) for text in _SHARPEN}
        self.grain = {text[0]: _slider(*text[1:]) for text in _GRAIN}
        self._radius_text, self._grain_text = label("", "soft", wrap=True), label("", "soft", wrap=True)
        self.radius_button = button("Use this radius", "Use the suggested radius", self._use_radius, "link")
        self.grain_button = button("Use this grain", "Use the suggested grain", self._use_grain, "link")
        self.colour_box = QCheckBox("Grain in three colours")
        self.colour_box.setToolTip("Independent grain in each colour channel")
        self.colour_box.toggled.connect(lambda on: self.grain_changed.emit("colour", on))
        self.tone = ValueSlider("Strength", "Strength of the match", 100, "%")
        self.tone.moved.connect(self.tone_changed)
        self.tone_button = button(
            "Match tone to", "Match tone, or tone and colour, to another picture", self._references
        )
        self.no_tone_button = button("Remove", "Keep the picture's own tone", self.tone_dropped.emit, "link")
        self._tone_text = label("", "soft", wrap=True)
        self._suggested_radius = self._suggested_grain = 0.0
        self.where = {part: self._make_mask_button(part) for part in ("sharpen", "grain", "tone")}
        self._layer_mask: Mask | None = None
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(7)
        inside.addWidget(label("Surface", "heading"))
        for slider in self.sharpen.values():
            inside.addWidget(slider)
        inside.addLayout(row(self.where["sharpen"], None))
        inside.addWidget(self._radius_text)
        inside.addWidget(self.radius_button)
        for slider in self.grain.values():
            inside.addWidget(slider)
        inside.addWidget(self.colour_box)
        inside.addLayout(row(self.where["grain"], None))
        inside.addWidget(self._grain_text)
        inside.addWidget(self.grain_button)
        inside.addWidget(label("Tone", "heading"))
        inside.addLayout(row(self.tone_button, None))
        inside.addWidget(self._tone_text)
        inside.addWidget(self.tone)
        inside.addLayout(row(self.where["tone"], None))
        inside.addWidget(self.no_tone_button)
        for name, slider in self.sharpen.items():
            slider.moved.connect(partial(self.sharpen_changed.emit, name))
        for name, slider in self.grain.items():
            slider.moved.connect(partial(self.grain_changed.emit, name))

    def show_entry(self, entry: TrayEntry, others: list[TrayEntry], layer_mask: Mask | None) -> None:
        """Show what is decided, and what is suggested with its reason.

        Parameters
        ----------
        layer_mask : of the layer that is worked on, which the surface can be treated through
        """
        self._entries, self._layer_mask = others, layer_mask
        self._show_where(entry.finish)
        finish = entry.finish
        radius, why = suggested_radius_mm(entry.decisions.density_ppi, entry.viewing_distance_mm)
        sharpen = finish.sharpen or Sharpen(amount=0, radius_mm=radius)
        grain = finish.grain or Grain(amount=0)
        for name, slider in self.sharpen.items():
            slider.show_value(getattr(sharpen, name))
            slider.setVisible(name == "amount" or sharpen.amount > 0)
        for name, slider in self.grain.items():
            slider.show_value(getattr(grain, name))
            slider.setVisible(name == "amount" or grain.amount > 0)
        self._suggested_radius = radius
        self._radius_text.setText(f"Suggested radius: {radius:.2f} mm, {why}.")
        self._radius_text.setVisible(sharpen.amount > 0)
        self.radius_button.setVisible(sharpen.amount > 0 and abs(sharpen.radius_mm - radius) > 0.004)
        self.colour_box.setVisible(grain.amount > 0)
        self.colour_box.blockSignals(True)
        self.colour_box.setChecked(grain.colour)
        self.colour_box.blockSignals(False)
        self._show_grain_text(entry, grain)
        tone = finish.tone
        self._tone_text.setText(f"Matched to {tone.reference}." if tone is not None else "")
        for part in (self._tone_text, self.tone, self.no_tone_button):
            part.setVisible(tone is not None)
        if tone is not None:
            self.tone.show_value(tone.strength)

    def _show_grain_text(self, entry: TrayEntry, grain: Grain) -> None:
        condition = entry.condition
        noise = condition.noise.luma if condition is not None and "noise" in condition.measured else 0.0
        self._suggested_grain = round(min(max(_SHARE_OF_NOISE * noise, _LEAST_LEVELS), _MOST_LEVELS), 1)
        if noise * _SHARE_OF_NOISE > _LEAST_LEVELS:
            why = f"the source's own noise is {noise:.1f} levels, which smooth areas have lost"
        else:
            why = "enough to remove the painted look of smooth areas"
        self._grain_text.setText(f"Suggested grain: {self._suggested_grain:.1f} levels, {why}.")
        self.grain_button.setVisible(abs(grain.amount - self._suggested_grain) > 0.04)

    def _make_mask_button(self, part: str) -> QPushButton:
        return button(
            "Where: everywhere",
            "Everywhere, or through the mask of the selected layer",
            lambda: self._ask_where(part),
        )

    def _show_where(self, finish: Finish) -> None:
        values = {"sharpen": finish.sharpen, "grain": finish.grain, "tone": finish.tone}
        for part, choice_button in self.where.items():
            value = values[part]
            choice_button.setVisible(value is not None)
            if value is not None:
                choice_button.setText("Where: everywhere" if value.mask == Mask() else "Where: through a mask")

    def _ask_where(self, part: str) -> None:
        menu = QMenu(self)
        for which, text in (
            ("everywhere", "Everywhere"),
            ("layer", "Where the selected layer is visible"),
            ("not-layer", "Where the selected layer is hidden"),
        ):
            action = menu.addAction(text)
            action.setEnabled(which == "everywhere" or self._layer_mask is not None)
            action.triggered.connect(lambda _checked=False, which=which: self.where_asked.emit(part, which))
        below = self.where[part]
        menu.popup(below.mapToGlobal(below.rect().bottomLeft()))

    def _use_radius(self) -> None:
        self.sharpen_changed.emit("radius_mm", self._suggested_radius)

    def _use_grain(self) -> None:
        self.grain_changed.emit("amount", self._suggested_grain)

    def _references(self) -> None:
        menu = QMenu(self)
        for colour, text in ((False, "Light of"), (True, "Light and colour of")):
            for entry in self._entries:
                action = menu.addAction(f"{text} {entry.path.name}")
                action.triggered.connect(
                    lambda _checked=False, n=entry.number, c=colour: self.reference_asked.emit(n, c)
                )
            action = menu.addAction(f"{text} a file…")
            action.triggered.connect(lambda _checked=False, c=colour: self.reference_asked.emit(None, c))
            if not colour:
                menu.addSeparator()
        menu.popup(self.tone_button.mapToGlobal(self.tone_button.rect().bottomLeft()))


def _slider(name: str, tip: str, maximum: float, unit: str, step: float) -> ValueSlider:
    return ValueSlider(name, tip, maximum, unit, step=step)
