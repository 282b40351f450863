"""One layer in the list of the mix, or the stamped trial below all layers."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QFrame, QVBoxLayout

from wamplex.app.shared.widgets import label, letter_square, restyle, row
from wamplex.core.model.finish_values import InitialMask, Layer

_BEGINNINGS = {
    "everywhere": "everywhere",
    "nowhere": "nowhere",
    "subject": "subject",
    "faces": "faces",
    "sharp": "sharp areas",
    "tones": "tones",
    "colours": "colours",
    "file": "from a file",
}


class LayerCard(QFrame):
    """Says that it was pressed."""

    chosen = Signal(int)

    def __init__(self, number: int, mark: str, name: str, text: str, about: str, *, chosen: bool) -> None:
        super().__init__()
        self._number = number
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"{name} {text}. {about}")
        self.setToolTip("Select this layer, to paint its mask and set its values" if number >= 0 else "")
        restyle(self, "chosen" if chosen else "card")
        inside = QVBoxLayout(self)
        inside.setContentsMargins(9, 7, 9, 7)
        inside.setSpacing(3)
        title = row(
            letter_square(mark, stamped=number < 0),
            label(name, "strong"),
            label(text, "small"),
            None,
            spacing=7,
        )
        inside.addLayout(title)
        inside.addWidget(label(about, "soft", wrap=True))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose it."""
        self.chosen.emit(self._number)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Space and return choose it."""
        if event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.chosen.emit(self._number)
        else:
            super().keyPressEvent(event)


def layer_text(layer: Layer) -> str:
    """Text on a layer: its mask and strength."""
    mask = layer.mask
    where = initial_mask_text(mask.initial_mask)
    parts = [where[0].upper() + where[1:]]
    if mask.strokes is not None:
        parts.append("painted")
    if mask.feather_px > 0:
        parts.append(f"feather {mask.feather_px:g} px")
    if mask.inverted:
        parts.append("inverted")
    parts.append(f"{layer.strength:.0f} %")
    return ("" if layer.on else "switched off · ") + ", ".join(parts)


def initial_mask_text(initial_mask: InitialMask) -> str:
    """Name of a starting mask."""
    if initial_mask.kind == "tones":
        return f"tones {initial_mask.low:.0f} to {initial_mask.high:.0f} %"
    return _BEGINNINGS[initial_mask.kind]
