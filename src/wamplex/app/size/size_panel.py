"""The panel of the Size step: fields that follow each other."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QGridLayout, QVBoxLayout, QWidget

from wamplex.app.shared.number_field import NumberField
from wamplex.app.shared.widgets import ChoiceRow, frame, label, row, scrolling_panel
from wamplex.app.size.sheet_editor import SheetEditor
from wamplex.app.tray.entry import TrayEntry
from wamplex.core.base.errors import SizeError
from wamplex.core.deliver.request.size_advice import size_advice, upscaling_range
from wamplex.core.geometry.sheet import Sheet, fit_to_sheet, sheet_with_factor
from wamplex.core.geometry.size import Size, sharp_distance_mm
from wamplex.core.geometry.size_text import (
    MM_PER_UNIT,
    UNITS,
    Unit,
    byte_size_text,
    density_text,
    distance_text,
    print_size_text,
)
from wamplex.core.model.settings import load_settings

_FACTORS = (2.0, 3.0, 4.0, 6.0)
_UNIT_DECIMALS = {"cm": 2, "mm": 1, "in": 2}


class SizePanel(QWidget):
    """Fields for factor, pixels, print and density."""

    chosen = Signal(object)
    unit_changed = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.unit: Unit = load_settings().unit
        self._size: Size | None = None
        self._sheet: Sheet | None = None
        panel, inside = scrolling_panel()
        outside = QVBoxLayout(self)
        outside.setContentsMargins(0, 0, 0, 0)
        outside.addWidget(panel)
        self.factor_buttons = ChoiceRow(
            "Factor", [(f, f"{f:g}×", f"Enlarge {f:g} times") for f in _FACTORS], self._choose_factor
        )
        self.factor = NumberField("Factor", "Any factor from 0.25 to 8", 52)
        self.width_px = NumberField("Width in pixels", "Width of the result; the height follows")
        self.height_px = NumberField("Height in pixels", "Height of the result; the width follows")
        self.density = NumberField(
            "Density in pixels per inch",
            "Pixels per inch of the print; the pixels stay, the print size follows",
        )
        self.print_width = NumberField("Print width", "Width of the print at this density; the factor follows")
        self.print_height = NumberField("Print height", "Height of the print at this density; the factor follows")
        self.units = QComboBox()
        self.units.addItems(list(UNITS))
        self.units.setCurrentText(self.unit)
        self.units.setAccessibleName("Unit of the print size")
        self.units.setToolTip("Centimetres, millimetres or inches")
        self.units.textActivated.connect(self._choose_unit)
        self.sheet = SheetEditor()
        self.sheet.refused.connect(self._refuse)
        self._advice = label("", "alert", wrap=True)
        self._refusal = label("", "alert", wrap=True)
        self._source = label("", "", wrap=True)
        self._notices = label("", "alert", wrap=True)
        self._build(inside)
        self._connect()

    @property
    def refusal_text(self) -> str:
        """Why the last entry was refused; empty when it was not."""
        return self._refusal.text()

    @property
    def advice_text(self) -> str:
        """The warnings on view; empty when there are none."""
        return self._advice.text()

    def refuse(self, text: str) -> None:
        """Say why something cannot be."""
        self._refuse(text)

    def show_entry(self, entry: TrayEntry, size: Size) -> None:
        """Show what was chosen for a picture."""
        self._size, self._sheet = size, entry.sheet
        self.sheet.show_sheet(entry.sheet, entry.viewing_distance_mm, size.source_width >= size.source_height)
        assert entry.header is not None
        warnings = size_advice(size, entry.sheet, entry.viewing_distance_mm, upscaling_range(entry.header))
        self._advice.setText("\n\n".join(warnings))
        self._advice.setVisible(bool(warnings))
        # On a sheet the print is as large as the sheet makes it.
        for field in (self.print_width, self.print_height):
            field.setEnabled(entry.sheet is None)
        self._refuse("")
        near = next((f for f in _FACTORS if abs(f - size.factor) < 1e-6), None)
        self.factor_buttons.show_value(near)
        self.factor.setText("")
        self.factor.show_number(size.factor, 2)
        self.width_px.show_number(size.width_px, 0)
        self.height_px.show_number(size.height_px, 0)
        self.density.show_number(size.density_ppi, 0 if size.density_ppi == int(size.density_ppi) else 1)
        decimals = _UNIT_DECIMALS[self.unit]
        self.print_width.show_number(size.width_mm / MM_PER_UNIT[self.unit], decimals)
        self.print_height.show_number(size.height_mm / MM_PER_UNIT[self.unit], decimals)
        self._source.setText(_source_text(entry, size, self.unit))
        self._notices.setText("\n".join(entry.info.notices))
        self._notices.setVisible(bool(entry.info.notices))

    def _build(self, inside: QVBoxLayout) -> None:
        inside.addWidget(label("How large", "heading"))
        grid = QGridLayout()
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(1, 1)
        pixels, ppi = label("px"), label("ppi")
        lines: list[tuple[str, QWidget, QWidget | None]] = [
            ("Width", self.width_px, pixels),
            ("Height", self.height_px, label("px")),
            ("Density", self.density, ppi),
        ]
        inside.addLayout(row(label("Factor"), None, self.factor_buttons, self.factor, spacing=4))
        for i, (name, field, unit) in enumerate(lines):
            _line(grid, i, name, field, unit)
        inside.addLayout(grid)
        inside.addWidget(frame("rule"))
        inside.addWidget(label("Print", "heading"))
        print_grid = QGridLayout()
        print_grid.setVerticalSpacing(6)
        print_grid.setColumnStretch(1, 1)
        _line(print_grid, 0, "Width", self.print_width, self.units)
        _line(print_grid, 1, "Height", self.print_height, None)
        inside.addLayout(print_grid)
        inside.addWidget(self._refusal)
        inside.addWidget(self._advice)
        inside.addWidget(frame("rule"))
        inside.addWidget(self.sheet)
        inside.addWidget(frame("rule"))
        inside.addWidget(label("From the source", "heading"))
        inside.addWidget(self._source)
        inside.addWidget(self._notices)
        inside.addStretch(1)

    def _connect(self) -> None:
        changes: list[tuple[NumberField, Callable[[Size, float], Size]]] = [
            (self.factor, Size.with_factor),
            (self.width_px, Size.with_width_px),
            (self.height_px, Size.with_height_px),
            (self.density, Size.with_density),
            (self.print_width, lambda s, v: s.with_width_mm(v * MM_PER_UNIT[self.unit])),
            (self.print_height, lambda s, v: s.with_height_mm(v * MM_PER_UNIT[self.unit])),
        ]
        for field, change in changes:
            field.entered.connect(lambda value, change=change: self._try(change, value))

    def _choose_factor(self, factor: object) -> None:
        self._try(Size.with_factor, float(str(factor)))

    def _try(self, change: Callable[[Size, float], Size], value: float) -> None:
        if self._size is None:
            return
        try:
            size = self._fit_on_sheet(change(self._size, value))
        except SizeError as error:
            # The field keeps what was typed, so that it can be corrected.
            self._refuse(str(error))
            return
        self._refuse("")
        self.chosen.emit(size)

    def _fit_on_sheet(self, size: Size) -> Size:
        """On a sheet factor and density follow each other, since the print's size is given."""
        assert self._size is not None
        if self._sheet is None:
            return size
        if size.density_ppi != self._size.density_ppi:
            return fit_to_sheet(size, self._sheet)
        return sheet_with_factor(size, self._sheet, size.factor)

    def _refuse(self, text: str) -> None:
        self._refusal.setText(text)
        self._refusal.setVisible(bool(text))

    def use_unit(self, unit: str) -> None:
        """Show prints in another unit."""
        self.units.setCurrentText(unit)
        self._choose_unit(unit)

    def _choose_unit(self, unit: str) -> None:
        self.unit = next(u for u in UNITS if u == unit)
        self.unit_changed.emit(unit)


def _line(grid: QGridLayout, number: int, name: str, field: QWidget, unit: QWidget | None) -> None:
    grid.addWidget(label(name), number, 0)
    grid.addWidget(field, number, 1, Qt.AlignmentFlag.AlignRight)
    if unit is not None:
        grid.addWidget(unit, number, 2)
    else:
        grid.setColumnMinimumWidth(2, 24)


def _source_text(entry: TrayEntry, size: Size, unit: Unit) -> str:
    header = entry.header
    assert header is not None
    as_is = size.with_factor(1.0)
    pixels = f"{header.width} × {header.height}"
    turned = entry.framing.turned_size(header.width, header.height)
    if (size.source_width, size.source_height) != turned:
        pixels = f"{size.source_width} × {size.source_height} px of {pixels}"
    megapixels = size.source_width * size.source_height / 1e6
    distance = distance_text(sharp_distance_mm(size.density_ppi))
    return (
        f"{pixels} px, {megapixels:.2f} megapixels\n"
        f"{header.kind}, {header.colour}, {header.depth} bit, {byte_size_text(header.file_bytes)}\n"
        f"Large enough as it is for {print_size_text(as_is.width_mm, as_is.height_mm, unit)}\n\n"
        f"At {density_text(size.density_ppi)} the print looks sharp from {distance} "
        "away: from there one pixel covers one arc minute, about what an eye resolves."
    )
