"""The readings of the active trial in the panel, beside the best and the clearly worst."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QLabel, QVBoxLayout, QWidget

from wamplex.app.shared.widgets import ChoiceRow, label, restyle
from wamplex.app.trial.readings_model import Standing

_SCOPES: list[tuple[object, str, str]] = [
    (False, "at the spots", "Mean over the spots, each 64 × 64 source pixels"),
    (True, "whole picture", "Mean over about 12 places spread evenly, each 64 × 64 source pixels"),
]


class ReadingsTable(QWidget):
    """One line a reading."""

    def __init__(self) -> None:
        super().__init__()
        self.everywhere = False
        self.scope = ChoiceRow("Readings", _SCOPES, self._choose)
        self._shown: tuple[str, list[Standing], list[Standing]] = ("", [], [])
        self._cells: dict[tuple[int, int], QLabel] = {}
        self._grid = QGridLayout()
        self._grid.setContentsMargins(0, 2, 0, 0)
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(2)
        self._grid.setColumnStretch(0, 1)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(4)
        inside.addWidget(label("Readings", "heading"))
        inside.addWidget(self.scope)
        inside.addLayout(self._grid)
        self._waiting = label("measuring…", "soft")
        inside.addWidget(self._waiting)
        self.scope.show_value(False)

    def show_standings(self, letter: str, spots: list[Standing], everywhere: list[Standing]) -> None:
        """Show the readings of a trial."""
        self._shown = (letter, spots, everywhere)
        standings = everywhere if self.everywhere else spots
        has_values = any(s.values for s in standings)
        self._waiting.setVisible(not has_values)
        for column, text in enumerate(("", letter, "best", "worst")):
            self._put(0, column, text, "soft")
        for row, standing in enumerate(standings, start=1):
            self._show(row, letter, standing)
        for (row, _), cell in self._cells.items():
            cell.setVisible(has_values or row == 0)

    def _show(self, row: int, letter: str, standing: Standing) -> None:
        reading = standing.reading
        name = self._put(row, 0, f"{reading.name}, {reading.unit}", "small")
        direction = "Less is better." if reading.better == "less" else "More is better."
        name.setToolTip(f"{reading.look_for} {direction} Formula: {reading.formula}.")
        value = standing.values.get(letter)
        text = "..." if value is None else _number(value)
        self._put(row, 1, text, "small-strong" if letter == standing.best else "small")
        self._put(row, 2, _who(standing, standing.best), "good")
        self._put(row, 3, _who(standing, standing.worst), "alert")

    def _put(self, row: int, column: int, text: str, role: str) -> QLabel:
        """Labels are made once: readings come one by one, and 85 new ones each time take 40 ms."""
        cell = self._cells.get((row, column))
        if cell is None:
            cell = self._cells[row, column] = label(text, role)
            if column > 0:
                cell.setAlignment(Qt.AlignmentFlag.AlignRight)
            self._grid.addWidget(cell, row, column)
        restyle(cell, role)
        if cell.text() != text:
            cell.setText(text)
        return cell

    def _choose(self, over_picture: object) -> None:
        self.everywhere = bool(over_picture)
        self.scope.show_value(self.everywhere)
        self.show_standings(*self._shown)


def _who(standing: Standing, letter: str | None) -> str:
    return "" if letter is None else f"{letter} {_number(standing.values[letter])}"


def _number(value: float) -> str:
    return f"{value:.2f}" if abs(value) < 1 else f"{value:.1f}"
