"""The readings of the active trial in the panel, beside the best and the clearly worst."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QLabel, QVBoxLayout, QWidget

from wamplex.app.shared.parts import Choice, clear_grid, label
from wamplex.app.trial.readings_model import Standing

_SCOPES: list[tuple[object, str, str]] = [
    (False, "at the spots", "Mean over the spots, each 64 × 64 source pixels"),
    (True, "whole picture", "Mean over about 12 places spread evenly, each 64 × 64 source pixels"),
]


class ReadingsTable(QWidget):
    """One line a reading."""

    def __init__(self) -> None:
        super().__init__()
        self.whole = False
        self.scope = Choice("Readings", _SCOPES, self._choose)
        self._shown: tuple[str, list[Standing], list[Standing]] = ("", [], [])
        self._grid = QGridLayout()
        self._grid.setContentsMargins(0, 2, 0, 0)
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(2)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(4)
        inside.addWidget(label("Readings", "heading"))
        inside.addWidget(self.scope)
        inside.addLayout(self._grid)
        self.scope.show_value(False)

    def show_standings(self, letter: str, spots: list[Standing], whole: list[Standing]) -> None:
        """Show the readings of a trial."""
        self._shown = (letter, spots, whole)
        standings = whole if self.whole else spots
        clear_grid(self._grid)
        self._grid.setColumnStretch(0, 1)
        for column, words in enumerate(("", letter, "best", "worst")):
            self._put(0, column, label(words, "soft"))
        if not any(s.values for s in standings):
            self._grid.addWidget(label("being measured ...", "soft"), 1, 0, 1, 4)
            return
        for row, standing in enumerate(standings, start=1):
            self._add(row, letter, standing)

    def _add(self, row: int, letter: str, standing: Standing) -> None:
        reading = standing.reading
        name = label(f"{reading.name}, {reading.unit}", "small")
        direction = "Less is better." if reading.better == "less" else "More is better."
        name.setToolTip(f"{reading.look_for} {direction} Formula: {reading.formula}.")
        self._put(row, 0, name)
        value = standing.values.get(letter)
        words = "..." if value is None else _number(value)
        self._put(row, 1, label(words, "small-strong" if letter == standing.best else "small"))
        self._put(row, 2, label(_who(standing, standing.best), "good"))
        self._put(row, 3, label(_who(standing, standing.worst), "alert"))

    def _put(self, row: int, column: int, made: QLabel) -> None:
        if column > 0:
            made.setAlignment(Qt.AlignmentFlag.AlignRight)
        self._grid.addWidget(made, row, column)

    def _choose(self, whole: object) -> None:
        self.whole = bool(whole)
        self.scope.show_value(self.whole)
        self.show_standings(*self._shown)


def _who(standing: Standing, letter: str | None) -> str:
    return "" if letter is None else f"{letter} {_number(standing.values[letter])}"


def _number(value: float) -> str:
    return f"{value:.2f}" if abs(value) < 1 else f"{value:.1f}"
