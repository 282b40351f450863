"""The Size step: crop and straighten, the sheet of paper, and how large the print becomes."""

from __future__ import annotations

from PySide6.QtGui import QImage, QShowEvent, QTransform
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from wamplex.app.shared.images import to_image
from wamplex.app.shared.number_field import NumberField
from wamplex.app.shared.widgets import ChoiceRow, button, frame, label, lay_out_step, plain_widget, toolbar
from wamplex.app.size.crop_view import CropView
from wamplex.app.size.paper_view import PaperView, WallView
from wamplex.app.size.size_panel import SizePanel
from wamplex.app.size.size_table import SizeTable
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.tray import Tray
from wamplex.app.workers.rendering.sheet_previews import PrintKey, SheetPreviews
from wamplex.core.base.errors import SizeError
from wamplex.core.geometry.cropping import mirror, rotate_quarter_turn, set_aspect_ratio, straighten
from wamplex.core.geometry.distance import arc_minutes
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.sheet import Sheet, file_pixels
from wamplex.core.geometry.size import MM_PER_INCH, Size
from wamplex.core.geometry.size_text import distance_text, print_size_text

_VIEWS = [
    ("crop", "Crop", "The picture with its crop frame, and the sheet beside it"),
    ("paper", "Paper", "The print alone, with margin, bleed and wrap"),
    ("wall", "On the wall", "The print on a wall, beside a person"),
]
_RATIOS: list[tuple[str, float | None]] = [
    ("any ratio", None),
    ("as the picture", 0.0),
    ("as the sheet", -1.0),
    ("1 : 1", 1.0),
    ("5 : 4", 5 / 4),
    ("4 : 3", 4 / 3),
    ("7 : 5", 7 / 5),
    ("ISO, √2 : 1", 2**0.5),
    ("3 : 2", 3 / 2),
    ("16 : 9", 16 / 9),
    ("2 : 1", 2.0),
]


class SizeStep(QWidget):
    """Bar, bench and panel of the Size step."""

    def __init__(self, tray: Tray, previews: SheetPreviews) -> None:
        super().__init__()
        self._tray = tray
        self._previews = previews
        self._print: PrintKey | None = None
        self._turned: tuple[object, QImage] | None = None
        self.view = "crop"
        self.crop, self.paper, self.wall = CropView(), PaperView(), WallView()
        self.table, self.panel = SizeTable(), SizePanel()
        self.views = ChoiceRow("View", _VIEWS, self.show_view)  # type: ignore[arg-type]
        self.ratios = QComboBox()
        for name, ratio in _RATIOS:
            self.ratios.addItem(name, ratio)
        self.ratios.setAccessibleName("Aspect ratio of the crop")
        self.ratios.setFixedWidth(112)
        self.ratios.setToolTip("Aspect ratio of the crop")
        self.angle = NumberField("Straighten by degrees, clockwise", "Rotates the picture, -45 to 45", 48, minimum=-45)
        self._lay_out()
        self._connect()
        self.show_view("crop")

    @property
    def ratio(self) -> float | None:
        """Aspect ratio of the locked crop, width by height."""
        chosen, entry = self.ratios.currentData(), self._entry()
        if chosen is None or entry is None or entry.header is None or entry.size is None:
            return None
        if chosen == 0.0:
            wide, high = entry.framing.turned_size(entry.header.width, entry.header.height)
            return wide / high
        if chosen < 0:
            return entry.sheet.ratio if entry.sheet is not None else None
        # A ratio lies as the picture does.
        return float(chosen if entry.size.source_width >= entry.size.source_height else 1 / chosen)

    def show_view(self, view: object) -> None:
        """Crop, paper or wall."""
        self.view = str(view)
        self.views.show_value(view)
        self.crop.setVisible(view == "crop")
        self.paper.setVisible(view in ("crop", "paper"))
        self.wall.setVisible(view == "wall")
        self.refresh()

    def refresh(self) -> None:
        """Show the selected entry."""
        entry = self._entry()
        self.table.setVisible(entry is not None)
        self.panel.setEnabled(entry is not None)
        for control in self._framing_controls:
            control.setEnabled(entry is not None)
        if entry is None or entry.size is None or entry.thumbnail is None or entry.header is None:
            self.crop.show_text("Add pictures: drop them here, or press Ctrl+O.")
            self.paper.show_sheet(None)
            self.wall.show_print(None, 0, 0)
            self._print = None
            return
        self.crop.show_framing(
            self._turned_image(entry), entry.framing, entry.header.width, entry.header.height, self.ratio
        )
        self.angle.show_number(entry.framing.straighten_deg, 1)
        self._show_print(entry, entry.size)
        self.panel.show_entry(entry, entry.size)
        self.table.show_size(entry.size, self.panel.unit, entry.sheet)

    def _lay_out(self) -> None:
        turn = button("Turn", "Rotate clockwise by 90 degrees", lambda: self._frame_by(rotate_quarter_turn))
        flip = button("Flip", "Mirror horizontally", lambda: self._frame_by(mirror))
        draw = button("Level", "Drag along a horizon or a vertical edge to straighten it", self._draw)
        full_button = button("Whole picture", "Reset crop, angle, rotation and flip", self._take_off)
        self._framing_controls = [self.ratios, self.angle, turn, flip, draw, full_button]
        degrees = (label("Straighten", ""), self.angle, label("°"), draw)
        bar = toolbar(self.views, 2, frame("divider"), 2, self.ratios, *degrees, turn, flip, full_button, None)
        bench = plain_widget("bench")
        inside = QVBoxLayout(bench)
        inside.setContentsMargins(22, 22, 22, 22)
        inside.setSpacing(20)
        pictures = QHBoxLayout()
        pictures.setSpacing(24)
        pictures.addWidget(self.crop, 3)
        pictures.addWidget(self.paper, 2)
        pictures.addWidget(self.wall, 1)
        inside.addLayout(pictures, 1)
        inside.addWidget(self.table)
        lay_out_step(self, bar, bench, self.panel)

    def _connect(self) -> None:
        self.panel.chosen.connect(self._choose)
        self.table.chosen.connect(self._choose)
        self.panel.unit_changed.connect(lambda _unit: self.refresh())
        self.panel.sheet.chosen.connect(self._choose_sheet)
        self.panel.sheet.distance_chosen.connect(self._choose_distance)
        self.ratios.activated.connect(self._choose_ratio)
        self.angle.entered.connect(self._straighten)
        self.crop.framed.connect(self._set_framing)
        self._previews.ready.connect(self._use_print)
        self.crop.angle_drawn.connect(self._straighten)
        self._tray.selected.connect(self._entry_changed)
        self._tray.changed.connect(self._entry_changed)

    def _entry(self) -> TrayEntry | None:
        entry = self._tray.current
        return entry if entry is not None and entry.usable else None

    def _turned_image(self, entry: TrayEntry) -> QImage:
        """The thumbnail after quarter turns and flip, made once for each."""
        assert entry.header is not None
        assert entry.thumbnail is not None
        upright = Framing(turns=entry.framing.turns, flipped=entry.framing.flipped)
        key = (entry.number, upright, id(entry.thumbnail))
        if self._turned is None or self._turned[0] != key:
            image = to_image(entry.thumbnail).transformed(QTransform().rotate(90 * upright.turns))
            self._turned = (key, image.mirrored(True, False) if upright.flipped else image)
        return self._turned[1]

    def _show_print(self, entry: TrayEntry, size: Size) -> None:
        """Say what the print comes to; its picture is rendered off the GUI thread."""
        assert entry.framed_thumbnail is not None
        sheet = entry.sheet
        width_mm, height_mm = _printed_mm(size, sheet)
        printed = print_size_text(width_mm, height_mm, self.panel.unit)
        self.paper.show_caption(_paper_text(sheet, printed))
        distance = entry.viewing_distance_mm
        minutes = arc_minutes(size.density_ppi, distance)
        judged = "sharp" if minutes <= 1.05 else "its pixels become visible"
        self.wall.show_caption(
            f"{printed} beside a person of 1.70 m. From {distance_text(distance)} one pixel covers "
            f"{minutes:.1f} arc minutes: {judged}."
        )
        key = PrintKey((entry.source, entry.framed_as), size, sheet, entry.framed_thumbnail)
        if key != self._print:
            self._print = key
            self._previews.request([key])

    def _use_print(self, key: PrintKey, pixels: object) -> None:
        if key != self._print:
            return
        image = to_image(pixels)  # type: ignore[arg-type]
        width_mm, height_mm = _printed_mm(key.size, key.sheet)
        cut = 0.0 if key.sheet is None else key.sheet.bleed_mm + key.sheet.wrap_mm
        self.paper.show_sheet(image, (cut / width_mm, cut / height_mm))
        self.wall.show_print(image, width_mm, height_mm)

    def _entry_changed(self, number: int) -> None:
        # Hidden, it is looked at again when it is opened: no other step shall wait for it.
        current = self._tray.current
        if self.isVisible() and (current is None or current.number == number):
            self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        """The step was opened."""
        super().showEvent(event)
        self.refresh()

    def _choose(self, size: object) -> None:
        entry = self._entry()
        if entry is not None:
            self._tray.set_size(entry.number, size)  # type: ignore[arg-type]

    def _choose_sheet(self, sheet: Sheet | None) -> None:
        entry = self._entry()
        if entry is None:
            return
        try:
            self._tray.set_sheet(entry.number, sheet)
        except SizeError as error:
            self.panel.refuse(str(error))

    def _choose_distance(self, distance_mm: float) -> None:
        entry = self._entry()
        if entry is not None:
            self._tray.set_viewing_distance(entry.number, distance_mm)

    def _choose_ratio(self, _index: int) -> None:
        self._frame_by(lambda framing, w, h: set_aspect_ratio(framing, w, h, self.ratio))

    def _straighten(self, degrees: float) -> None:
        self._frame_by(lambda framing, w, h: straighten(framing, w, h, degrees))

    def _draw(self) -> None:
        self.show_view("crop")
        self.crop.draw_line(True)

    def _take_off(self) -> None:
        entry = self._entry()
        if entry is not None:
            self.ratios.setCurrentIndex(0)
            self._set_framing(Framing(shrink_first=entry.framing.shrink_first))

    def _frame_by(self, change) -> None:  # type: ignore[no-untyped-def]
        """Change the framing by a function of it and the picture's size."""
        entry = self._entry()
        if entry is not None and entry.header is not None:
            self._set_framing(change(entry.framing, entry.header.width, entry.header.height))

    def _set_framing(self, framing: Framing) -> None:
        entry = self._entry()
        if entry is None:
            return
        try:
            self._tray.set_framing(entry.number, framing)
        except SizeError as error:
            self.panel.refuse(str(error))


def _printed_mm(size: Size, sheet: Sheet | None) -> tuple[float, float]:
    """The file as it comes out of the printer."""
    width, height = (n / size.density_ppi * MM_PER_INCH for n in file_pixels(size, sheet))
    return width, height


def _paper_text(sheet: Sheet | None, printed: str) -> str:
    if sheet is None:
        return f"The print: {printed}"
    parts = [sheet.name.split(" · ")[0] + " sheet"]
    for name, value in (("margin", sheet.margin_mm), ("bleed", sheet.bleed_mm), ("wrap", sheet.wrap_mm)):
        if value > 0:
            parts.append(f"{value:g} mm {name}")
    return ", ".join(parts) + f"\nThe file: {printed}"
