"""The part of the Size panel for paper, margins, bleed and wrap."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QInputDialog, QVBoxLayout, QWidget

from wamplex.app.shared.number_field import NumberField
from wamplex.app.shared.widgets import ChoiceRow, button, label, row
from wamplex.core.base.errors import SettingsError, SizeError
from wamplex.core.geometry.paper import PAPERS, Paper
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.geometry.size_text import parse_print_size
from wamplex.core.model.settings import load_settings, save_settings

_NO_SHEET, _OWN = "no sheet", "another size…"
_PLACES = [
    ("fit", "fit", "The whole picture, with bare paper where the proportions differ"),
    ("fill", "fill", "The picture covers the sheet and is cropped to it"),
    ("extend", "extend", "The whole picture; the paper around it is filled"),
]
_WRAPS = ("mirrored", "stretched", "blurred", "plain")
_EXTENSIONS = ("mirrored", "blurred", "plain", "filled")


class SheetEditor(QWidget):
    """Sheet, placement, margin, bleed, canvas wrap, and how close one may stand."""

    chosen = Signal(object)  # Sheet or None
    distance_chosen = Signal(float)  # mm
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._sheet: Sheet | None = None
        self._landscape = True
        self.papers = QComboBox()
        self.papers.setAccessibleName("Sheet")
        self.papers.setToolTip("Paper. The print gets its size")
        self.turn = button("turn", "Swap upright and lying", self._turn_sheet, "link")
        self.places = ChoiceRow("Place", _PLACES, self._choose_place)  # type: ignore[arg-type]
        self.margin = NumberField("Margin in millimetres", "Bare paper on every side", 44, minimum=0)
        self.bleed = NumberField("Bleed in millimetres", "Picture beyond every side, to be trimmed", 44, minimum=0)
        self.wrap = NumberField("Canvas wrap in millimetres", "Goes around the frame on every side", 44, minimum=0)
        self.wraps = _chooser("What goes around the frame", _WRAPS, self._choose_wrap)
        self.extensions = _chooser("What goes beyond the edges", _EXTENSIONS, self._choose_extension)
        self.viewing_distance = NumberField("Seen from, in metres", "Viewing distance of the print", 52)
        self._fill_papers()
        self._lay_out()
        self.papers.activated.connect(self._choose_paper)
        for field, name in ((self.margin, "margin_mm"), (self.bleed, "bleed_mm"), (self.wrap, "wrap_mm")):
            field.entered.connect(lambda value, name=name: self._change(name, value))
        self.viewing_distance.entered.connect(lambda metres: self.distance_chosen.emit(metres * 1000))

    def show_sheet(self, sheet: Sheet | None, seen_from_mm: float, landscape: bool) -> None:
        """Show what was chosen; ``landscape`` is how a sheet chosen next will lie."""
        self._sheet, self._landscape = sheet, landscape
        place = 0 if sheet is None else max(self.papers.findText(sheet.name), 0)
        if sheet is not None and place == 0:
            place = self.papers.findText(_OWN)
        self.papers.setCurrentIndex(place)
        for part in self._parts:
            part.setVisible(sheet is not None)
        self.viewing_distance.show_number(seen_from_mm / 1000, 2)
        if sheet is None:
            return
        self.places.show_value(sheet.place)
        for field, value in (
            (self.margin, sheet.margin_mm),
            (self.bleed, sheet.bleed_mm),
            (self.wrap, sheet.wrap_mm),
        ):
            field.show_number(value, 0 if value == int(value) else 1)
        self.wraps.setCurrentText(sheet.wrap)
        self.extensions.setCurrentText(sheet.extension)
        self._extension_line.setVisible(sheet.place == "extend")

    def _fill_papers(self) -> None:
        self.papers.clear()
        self.papers.addItem(_NO_SHEET, None)
        own = [Paper(name, short, long, "own") for name, short, long in load_settings().custom_papers]
        group = ""
        for paper in (*PAPERS, *own):
            if paper.group != group:
                group = paper.group
                self.papers.insertSeparator(self.papers.count())
            self.papers.addItem(paper.text, paper)
        self.papers.insertSeparator(self.papers.count())
        self.papers.addItem(_OWN, _OWN)

    def _lay_out(self) -> None:
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(6)
        inside.addWidget(label("Paper", "heading"))
        inside.addWidget(self.papers)
        self._extension_line = _line("Beyond the edges", self.extensions)
        self._parts = [
            _line("Place", self.places),
            self._extension_line,
            _line("Margin", self.margin, label("mm")),
            _line("Bleed", self.bleed, label("mm")),
            _line("Canvas wrap", self.wrap, label("mm"), self.wraps),
            _line("Rotate the sheet", self.turn),
        ]
        for part in self._parts:
            inside.addWidget(part)
        inside.addWidget(_line("Seen from", self.viewing_distance, label("m")))

    def _choose_paper(self, index: int) -> None:
        paper = self.papers.itemData(index)
        if paper is None:
            self.chosen.emit(None)
        elif paper == _OWN:
            self._ask_own_paper()
        else:
            self._use(paper)

    def _use(self, paper: Paper) -> None:
        sides = (paper.long_mm, paper.short_mm) if self._landscape else (paper.short_mm, paper.long_mm)
        changes = {"name": paper.text, "width_mm": sides[0], "height_mm": sides[1]}
        if self._sheet is None:
            self.chosen.emit(Sheet.model_validate(changes))
        else:
            self.chosen.emit(self._sheet.replace(**changes))

    def _ask_own_paper(self) -> None:
        text, agreed = QInputDialog.getText(self, "Another size", "Width and height, such as 42x60cm or 8x12in")
        if not agreed:
            self.show_sheet(self._sheet, float(self.viewing_distance.text() or 0.5) * 1000, self._landscape)
            return
        try:
            sides = sorted(parse_print_size(text))
        except SizeError as error:
            self.refused.emit(str(error))
            return
        self.keep_own_paper(text.strip(), *sides)

    def keep_own_paper(self, name: str, short_mm: float, long_mm: float) -> None:
        """Add a size of the user's to the list for good, and use it."""
        settings = load_settings()
        if (name, short_mm, long_mm) not in settings.custom_papers:
            own = (*settings.custom_papers, (name, short_mm, long_mm))
            try:
                save_settings(settings.replace(custom_papers=own))
            except SettingsError as error:
                self.refused.emit(str(error))
            self._fill_papers()
        self._use(Paper(name, short_mm, long_mm, "own"))

    def _turn_sheet(self) -> None:
        if self._sheet is not None:
            sides = {"width_mm": self._sheet.height_mm, "height_mm": self._sheet.width_mm}
            self.chosen.emit(self._sheet.replace(**sides))

    def _choose_place(self, place: object) -> None:
        self._change("place", place)

    def _choose_wrap(self, wrap: str) -> None:
        self._change("wrap", wrap)

    def _choose_extension(self, extension: str) -> None:
        self._change("extension", extension)

    def _change(self, name: str, value: object) -> None:
        if self._sheet is None:
            return
        try:
            changed = Sheet.model_validate(self._sheet.model_dump() | {name: value})
            _ = changed.area_mm
        except (ValueError, SizeError) as error:
            text = str(error) if isinstance(error, SizeError) else f"{value} mm is not possible here."
            self.refused.emit(text)
            return
        self.chosen.emit(changed)


def _chooser(name: str, options: tuple[str, ...], chosen) -> QComboBox:  # type: ignore[no-untyped-def]
    combo = QComboBox()
    combo.addItems(list(options))
    combo.setAccessibleName(name)
    combo.setToolTip(name)
    combo.textActivated.connect(chosen)
    return combo


def _line(name: str, *parts: QWidget) -> QWidget:
    widget = QWidget()
    widget.setLayout(row(label(name), None, *parts, spacing=4))
    return widget
