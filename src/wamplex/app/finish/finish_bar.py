"""The bar above the bench of the Finish step: brush, mask, zoom."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from wamplex.app.finish.brush import LARGEST_PX, LEAST_PX, Brush
from wamplex.app.shared.number_field import NumberField
from wamplex.app.shared.widgets import ChoiceRow, button, frame, label, toolbar

_ZOOMS: list[tuple[object, str, str]] = [
    (None, "Fit", "Show the whole picture"),
    (0.5, "50 %", "Four result pixels per screen pixel: the view from a step back"),
    (1.0, "100 %", "One screen pixel per result pixel"),
    (2.0, "200 %", "Show every result pixel 2 × 2"),
    (4.0, "400 %", "Show every result pixel 4 × 4"),
    ("print", "Print size", "Actual print size, if the screen reports its size correctly"),
]
_TOOLS: list[tuple[object, str, str]] = [
    ("look", "Look", "Drag to move the picture"),
    ("add", "Paint", "Drag to paint the selected layer in (A switches to erasing)"),
    ("take", "Erase", "Drag to erase the selected layer (A switches to painting)"),
]
_MASKS: list[tuple[object, str, str]] = [
    ("off", "Result", "Show only the result"),
    ("tint", "Show mask", "Tint the mask of the selected layer"),
    ("alone", "Mask only", "Show the mask: white where the layer is visible"),
]


class FinishBar(QWidget):
    """Says what was pressed; decides nothing."""

    tool_chosen = Signal(str)  # look, add, take
    brush_chosen = Signal(object)  # Brush
    mask_chosen = Signal(str)  # off, tint, alone
    zoom_chosen = Signal(object)
    before_pressed = Signal(bool)
    spot_asked = Signal(int)  # 1 for the next, -1 for the one before

    def __init__(self) -> None:
        super().__init__()
        self._brush = Brush()
        self.tools = ChoiceRow("Tool", _TOOLS, lambda tool: self.tool_chosen.emit(str(tool)))
        self.diameter = NumberField("Brush size", "Diameter of the brush in source pixels ( , and . )", 48)
        self.hardness = NumberField(
            "Brush hardness", "Hardness: 0 fades from the centre, 100 has a hard edge ( ; and : )", 44, minimum=0
        )
        self.opacity = NumberField("Brush opacity", "Flow: how much each stroke adds or erases, %", 44)
        self.masks = ChoiceRow("Mask", _MASKS, lambda which: self.mask_chosen.emit(str(which)))
        self.zooms = ChoiceRow("Zoom", _ZOOMS, self.zoom_chosen.emit)
        self.before_button = button("Before", "Hold, or hold W: the stamped trial without Finish", lambda: None)
        self.before_button.pressed.connect(lambda: self.before_pressed.emit(True))
        self.before_button.released.connect(lambda: self.before_pressed.emit(False))
        self.previous_button = button("Previous spot", "Go to the spot before (N backwards: Shift+N)", lambda: None)
        self.previous_button.clicked.connect(lambda: self.spot_asked.emit(-1))
        self.next_button = button("Next spot", "Go to the next spot at 100 % (N)", lambda: None)
        self.next_button.clicked.connect(lambda: self.spot_asked.emit(1))
        self._text = [label(text, "small") for text in ("Size", "Hardness", "Opacity")]
        upper = toolbar(
            self.tools,
            frame("divider"),
            self._text[0],
            self.diameter,
            self._text[1],
            self.hardness,
            self._text[2],
            self.opacity,
            None,
            self.before_button,
        )
        lower = toolbar(self.zooms, None, self.previous_button, self.next_button, self.masks)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(0)
        inside.addWidget(upper)
        inside.addWidget(lower)
        self.diameter.entered.connect(
            lambda value: self._choose(replace(self._brush, size=min(max(value, LEAST_PX), LARGEST_PX)))
        )
        self.hardness.entered.connect(
            lambda value: self._choose(replace(self._brush, hardness=min(max(value, 0.0), 100.0)))
        )
        self.opacity.entered.connect(
            lambda value: self._choose(replace(self._brush, opacity=min(max(value, 1.0), 100.0)))
        )
        self.show_brush(self._brush)

    def show_brush(self, brush: Brush) -> None:
        """Show its settings."""
        self._brush = brush
        self.diameter.show_number(brush.size, 0)
        self.hardness.show_number(brush.hardness, 0)
        self.opacity.show_number(brush.opacity, 0)

    def show_state(self, *, tool: str, mask: str, zoom: object, paints: bool) -> None:
        """Press what counts now; without a layer there is nothing to paint on."""
        self.tools.show_value(tool)
        self.masks.show_value(mask)
        self.zooms.show_value(zoom)
        for value in ("add", "take"):
            self.tools.button_for(value).setEnabled(paints)
        for value in ("tint", "alone"):
            self.masks.button_for(value).setEnabled(paints)
        for field in (self.diameter, self.hardness, self.opacity):
            field.setEnabled(paints)

    def _choose(self, brush: Brush) -> None:
        self.show_brush(brush)
        self.brush_chosen.emit(brush)
