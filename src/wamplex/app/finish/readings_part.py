"""Panel for the readings of the stamped trial, with and without Finish."""

from __future__ import annotations

from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from wamplex.app.shared.widgets import clear_grid, label
from wamplex.core.readings.catalogue import READINGS

_SHOWN = ("ringing", "softness", "noise", "blotches", "colour-drift", "tone-drift")
_HALOS, _BLOTCHES, _HIDDEN_BY_NOISE = 3.0, 1.0, 2.5


class ReadingsPart(QWidget):
    """A line a reading: before and after."""

    def __init__(self) -> None:
        super().__init__()
        self.complete = False  # whether both are measured
        self._grid = QGridLayout()
        self._grid.setContentsMargins(0, 2, 0, 0)
        self._grid.setHorizontalSpacing(10)
        self._grid.setVerticalSpacing(2)
        self._grid.setColumnStretch(0, 1)
        self.warning = label("", "alert", wrap=True)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(5)
        inside.addWidget(label("Readings at the spots", "heading"))
        inside.addLayout(self._grid)
        inside.addWidget(self.warning)

    def show_readings(self, before: dict[str, float] | None, after: dict[str, float] | None) -> None:
        """Show both; None while they are being measured."""
        self.complete = before is not None and after is not None
        clear_grid(self._grid)
        for column, text in enumerate(("", "before", "after")):
            self._grid.addWidget(label(text, "soft"), 0, column)
        for line, reading in enumerate((r for r in READINGS if r.key in _SHOWN), start=1):
            name = label(f"{reading.name}, {reading.unit}", "small")
            name.setToolTip(f"{reading.look_for} Formula: {reading.formula}.")
            self._grid.addWidget(name, line, 0)
            for column, values in ((1, before), (2, after)):
                text = "..." if values is None else f"{values[reading.key]:.2f}"
                self._grid.addWidget(label(text, "small"), line, column)
        text = warning(before, after) if before is not None and after is not None else ""
        self.warning.setText(text)
        self.warning.setVisible(bool(text))


def warning(before: dict[str, float], after: dict[str, float]) -> str:
    """Warnings about side effects of Finish; empty without any."""
    warnings = []
    more = after["ringing"] - before["ringing"]
    if more > _HALOS:
        warnings.append(f"Sharpening adds halos of {more:.1f} levels. Lower the halo limit or the amount.")
    if before["blotches"] > _BLOTCHES and after["noise"] > before["noise"] + _HIDDEN_BY_NOISE:
        warnings.append(
            f"Grain hides blotches of {before['blotches']:.1f} levels; they may show on paper from close by."
        )
    return " ".join(warnings)
