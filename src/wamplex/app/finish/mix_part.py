"""Panel for mixing: layers over the stamped trial, and the mask of the selected layer."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QMenu, QVBoxLayout, QWidget

from wamplex.app.finish.layer_card import LayerCard, initial_mask_text, layer_text
from wamplex.app.shared.value_slider import ValueSlider
from wamplex.app.shared.widgets import button, clear, label, row
from wamplex.app.tray.entry import TrayEntry
from wamplex.core.model.finish_values import MOST_FEATHER_PX, Layer
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.trial.registry import find_upscaler

SOURCE_MARK, NO_MARK = "S", "·"
_MOST_FEATHER_SLID = 30
_MASKS = (
    ("everywhere", "Everywhere"),
    ("nowhere", "Nothing, to paint from scratch"),
    ("subject", "The subject"),
    ("faces", "Faces"),
    ("sharp", "Sharp areas"),
    ("tones", "A range of tones"),
    ("colours", "A colour picked in the picture"),
    ("file", "A grey picture from a file…"),
)


class MixPart(QWidget):
    """Emits what the user asks for; changes no decision itself."""

    layer_asked = Signal(object)  # TrialSpec, or None for the source
    layer_chosen = Signal(int)
    mask_asked = Signal(str)
    tones_asked = Signal(float, float, float)  # low, high, soft
    radius_asked = Signal(float)
    changed = Signal(str, object)  # field of the layer, value
    mask_changed = Signal(str, object)  # field of the mask, value
    done = Signal(str)  # up, down, twice, remove, forget-strokes

    def __init__(self) -> None:
        super().__init__()
        self._entry: TrayEntry | None = None
        self.cards: list[LayerCard] = []
        self._list = QVBoxLayout()
        self._list.setSpacing(6)
        self.add_button = button("Add a layer", "Blend another trial, or the source, over the stamped trial", self._add)
        self.mask_button = button("Mask from", "Choose the starting mask of the selected layer", self._masks)
        self.invert_button = button("Invert", "Invert the mask", self._invert)
        self.invert_button.setCheckable(True)
        self.strength = ValueSlider("Strength", "Strength of the layer", 100, "%")
        self.feather = ValueSlider(
            "Feather", "Feather: softens the mask's edge, in source pixels", _MOST_FEATHER_SLID, "px", step=0.5
        )
        self.low = ValueSlider("Tones from", "Darkest tone of the range", 100, "%")
        self.high = ValueSlider("to", "Lightest tone of the range", 100, "%")
        self.soft = ValueSlider("falloff", "Falloff beyond the range", 50, "%")
        self.tolerance = ValueSlider("Tolerance", "Tolerance around the picked colour", 100)
        self.on_button = button("On", "Switch the layer on or off", self._switch)
        self.on_button.setCheckable(True)
        self.up_button = button("Up", "Move the layer up", lambda: self.done.emit("up"))
        self.down_button = button("Down", "Move the layer down", lambda: self.done.emit("down"))
        self.twice_button = button("Copy", "Duplicate the layer", lambda: self.done.emit("twice"))
        self.remove_button = button("Remove", "Remove the layer", lambda: self.done.emit("remove"))
        self.clear_button = button(
            "Remove all strokes",
            "Keep the starting mask",
            lambda: self.done.emit("forget-strokes"),
            "link",
        )
        self._about = label("", "soft", wrap=True)
        self._details = QWidget()
        details = QVBoxLayout(self._details)
        details.setContentsMargins(0, 0, 0, 0)
        details.setSpacing(6)
        details.addLayout(row(self.mask_button, self.invert_button, None, spacing=4))
        details.addWidget(self.clear_button)
        for slider in (self.low, self.high, self.soft, self.tolerance, self.strength, self.feather):
            details.addWidget(slider)
        details.addLayout(
            row(
                self.on_button,
                self.up_button,
                self.down_button,
                self.twice_button,
                self.remove_button,
                None,
                spacing=4,
            )
        )
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(7)
        inside.addWidget(label("Mix", "heading"))
        inside.addLayout(self._list)
        inside.addLayout(row(self.add_button, None))
        inside.addWidget(self._about)
        inside.addWidget(self._details)
        self._connect()

    def _connect(self) -> None:
        self.strength.moved.connect(lambda value: self.changed.emit("strength", value))
        self.feather.moved.connect(lambda value: self.mask_changed.emit("feather_px", min(value, MOST_FEATHER_PX)))
        for slider in (self.low, self.high, self.soft):
            slider.moved.connect(lambda _value: self.tones_asked.emit(self.low.value, self.high.value, self.soft.value))
        self.tolerance.moved.connect(self.radius_asked)

    def show_entry(self, entry: TrayEntry, chosen: int | None) -> None:
        """Show the layers, the uppermost first, and the chosen one's values."""
        self._entry = entry
        clear(self._list)
        self.cards = []
        layers = entry.finish.layers
        for number in reversed(range(len(layers))):
            self._add_card(number, layers[number], chosen=number == chosen)
        mark, name = trial_text(entry, entry.delivered_recipe().base)
        self._list.addWidget(
            LayerCard(
                -1,
                mark,
                name,
                "outside the mask" if layers else "everywhere",
                _stamp_text(entry),
                chosen=False,
            )
        )
        layer = layers[chosen] if chosen is not None else None
        self._details.setVisible(layer is not None)
        self._about.setText(
            "" if layers else "Blend another trial over a place that went wrong: a face, a texture, lettering."
        )
        self._about.setVisible(not layers)
        if layer is not None:
            self._show_layer(layer, len(layers), chosen or 0)

    def _show_layer(self, layer: Layer, count: int, number: int) -> None:
        initial = layer.mask.initial_mask
        self.mask_button.setText(f"Mask from: {initial_mask_text(initial)}")
        self.invert_button.setChecked(layer.mask.inverted)
        self.on_button.setChecked(layer.on)
        self.on_button.setText("On" if layer.on else "Off")
        self.strength.show_value(layer.strength)
        self.feather.show_value(layer.mask.feather_px)
        for slider, value in ((self.low, initial.low), (self.high, initial.high), (self.soft, initial.soft)):
            slider.setVisible(initial.kind == "tones")
            slider.show_value(value)
        self.tolerance.setVisible(initial.kind == "colours")
        self.tolerance.show_value(initial.colour_tolerance)
        self.clear_button.setVisible(layer.mask.strokes is not None)
        self.up_button.setEnabled(number < count - 1)
        self.down_button.setEnabled(number > 0)

    def _add_card(self, number: int, layer: Layer, *, chosen: bool) -> None:
        assert self._entry is not None
        if layer.source_trial is None:
            mark, name = SOURCE_MARK, "Source"
        else:
            mark, name = trial_text(self._entry, layer.source_trial)
        is_everywhere = layer.mask.initial_mask.kind == "everywhere" and layer.mask.strokes is None
        text = "whole picture" if is_everywhere else "through a mask"
        card = LayerCard(number, mark, name, text, layer_text(layer), chosen=chosen)
        card.chosen.connect(self.layer_chosen)
        self.cards.append(card)
        self._list.addWidget(card)

    def _add(self) -> None:
        if self._entry is None:
            return
        menu = QMenu(self)
        entry = self._entry
        for trial in entry.trials.remaining:
            spec = entry.trial_recipe(trial).base
            action = menu.addAction(f"{trial.letter}   {trial.upscaler.name}")
            action.triggered.connect(lambda _checked=False, spec=spec: self.layer_asked.emit(spec))
        action = menu.addAction(f"{SOURCE_MARK}   The source, plainly enlarged")
        action.triggered.connect(lambda _checked=False: self.layer_asked.emit(None))
        menu.popup(self.add_button.mapToGlobal(self.add_button.rect().bottomLeft()))

    def _masks(self) -> None:
        menu = QMenu(self)
        condition = None if self._entry is None else self._entry.condition
        areas = None if condition is None else condition.areas
        there = {
            "subject": areas is not None and areas.subject is not None,
            "sharp": areas is not None,
            "faces": self._entry is not None and bool(treated_faces(self._entry)),
        }
        for kind, text in _MASKS:
            action = menu.addAction(text if there.get(kind, True) else f"{text} (none found)")
            action.setEnabled(there.get(kind, True))
            action.triggered.connect(lambda _checked=False, kind=kind: self.mask_asked.emit(kind))
        menu.popup(self.mask_button.mapToGlobal(self.mask_button.rect().bottomLeft()))

    def _invert(self) -> None:
        self.mask_changed.emit("inverted", self.invert_button.isChecked())

    def _switch(self) -> None:
        self.changed.emit("on", self.on_button.isChecked())


def treated_faces(entry: TrayEntry) -> tuple[object, ...]:
    """Faces that are known: those decided on, else those that were found."""
    if entry.finish.faces is not None:
        return entry.finish.faces.ellipses
    return entry.condition.faces if entry.condition is not None else ()


def trial_text(entry: TrayEntry, spec: TrialSpec) -> tuple[str, str]:
    """Letter and name of the trial that a layer shows; a dot where no trial has these values."""
    for trial in entry.trials.rows:
        if entry.trial_recipe(trial).base == spec:
            return trial.letter, trial.upscaler.name
    return NO_MARK, find_upscaler(spec.upscaler).name


def _stamp_text(entry: TrayEntry) -> str:
    return "stamped" if entry.stamped is not None else "suggested, nothing is stamped yet"
