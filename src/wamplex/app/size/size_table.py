"""The card below the picture: the size in a sentence, and common factors side by side."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QFrame, QGridLayout, QVBoxLayout, QWidget

from wamplex.app.shared.widgets import clear, label, plain_widget, restyle
from wamplex.core.base.errors import SizeError
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.size_limits import uncompressed_bytes
from wamplex.core.geometry.sheet import Sheet, factor_needed, sheet_with_factor
from wamplex.core.geometry.size import Size, sharp_distance_mm
from wamplex.core.geometry.size_text import Unit, byte_size_text, density_text, distance_text, print_size_text

_FACTORS = (1.0, 2.0, 3.0, 4.0, 6.0, 8.0)
# What ink-jet printing of photographs still looks good at, common practice.
_FIRST_DENSITY_PPI, _SECOND_DENSITY_PPI = 300.0, 180.0
_WIDTHS = (54, 110, 78, 116, 116, 74, 74)


class SizeTable(QFrame):
    """Pressing a row chooses its factor."""

    chosen = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("role", "sheet")
        self._headline = label("", "headline", wrap=True)
        self._sentence = label("", "soft", wrap=True)
        self._rows = QVBoxLayout()
        self._rows.setSpacing(0)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(16, 12, 16, 12)
        inside.setSpacing(3)
        inside.addWidget(self._headline)
        inside.addWidget(self._sentence)
        inside.addSpacing(6)
        inside.addLayout(self._rows)

    @property
    def headline(self) -> str:
        """The sentence at the top."""
        return self._headline.text()

    def show_size(self, size: Size, unit: Unit, sheet: Sheet | None) -> None:
        """Show a chosen size among the usual factors."""
        printed = print_size_text(size.width_mm, size.height_mm, unit)
        pixels = f"{size.width_px} × {size.height_px} px"
        distance = distance_text(sharp_distance_mm(size.density_ppi))
        self._headline.setText(f"{size.factor:.4g}× gives {pixels}: {printed} at {density_text(size.density_ppi)}")
        self._sentence.setText(f"{_sheet_text(size, sheet)}Sharp from {distance} away.")
        clear(self._rows)
        head = ("factor", "pixels", "megapixels", f"at {_FIRST_DENSITY_PPI:g} ppi")
        last = ("16-bit pixels",) if sheet is None else (f"on {sheet.name.split(' · ')[0]}", "sharp from")
        self._rows.addWidget(_cells((*head, f"at {_SECOND_DENSITY_PPI:g} ppi", *last), "soft"))
        for factor in _FACTORS:
            row = FactorRow(size.with_factor(factor), unit, abs(factor - size.factor) < 1e-6, sheet)
            row.chosen.connect(self.chosen)
            self._rows.addWidget(row)


class FactorRow(QFrame):
    """One factor with the size that follows from it."""

    chosen = Signal(object)

    def __init__(self, size: Size, unit: Unit, present: bool, sheet: Sheet | None = None) -> None:
        super().__init__()
        self._size = size
        last: tuple[str, ...] = (byte_size_text(uncompressed_bytes(size, Delivery(), 3)),)
        if sheet is not None:
            try:
                self._size = sheet_with_factor(size, sheet, size.factor)
                density = self._size.density_ppi
                last = (f"{density:.0f} ppi", distance_text(sharp_distance_mm(density)))
            except SizeError:  # too coarse or too fine to print on that sheet
                self.setEnabled(False)
                last = ("-", "-")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip(f"Enlarge {size.factor:g} times")
        first, second = (size.with_density(ppi) for ppi in (_FIRST_DENSITY_PPI, _SECOND_DENSITY_PPI))
        text = (
            f"{size.factor:g}×",
            f"{size.width_px} × {size.height_px}",
            f"{size.megapixels:.3g}",
            print_size_text(first.width_mm, first.height_mm, unit),
            print_size_text(second.width_mm, second.height_mm, unit),
            *last,
        )
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.addWidget(_cells(text, ""))
        self.setAccessibleName(f"Factor {text[0]}: {text[1]} pixels")
        restyle(self, "row-present" if present else "row")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose it."""
        self.chosen.emit(self._size)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Choose it with Return or space."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.chosen.emit(self._size)
        else:
            super().keyPressEvent(event)


def _sheet_text(size: Size, sheet: Sheet | None) -> str:
    if sheet is None:
        return f"{size.megapixels:.3g} megapixels. "
    needed = factor_needed(size, sheet, _FIRST_DENSITY_PPI)
    name = sheet.name.split(" · ")[0]
    return f"For this {name} sheet you need {needed:.1f}× at {_FIRST_DENSITY_PPI:g} ppi. "


def _cells(texts: tuple[str, ...], role: str) -> QWidget:
    widget = plain_widget("")
    grid = QGridLayout(widget)
    grid.setContentsMargins(4, 3, 4, 3)
    for i, text in enumerate(texts):
        cell = label(text, role)
        side = Qt.AlignmentFlag.AlignLeft if i == 0 else Qt.AlignmentFlag.AlignRight
        cell.setAlignment(side | Qt.AlignmentFlag.AlignVCenter)
        grid.addWidget(cell, 0, i)
        grid.setColumnMinimumWidth(i, _WIDTHS[i])
        grid.setColumnStretch(i, 0 if i == 0 else 1)
    return widget
