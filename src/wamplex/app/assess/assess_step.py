"""The Assess step: the picture, what was measured of it, and what that suggests."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QCheckBox, QPushButton, QVBoxLayout, QWidget

from wamplex.app.assess.assess_view import AreaName, AssessView, Mark
from wamplex.app.assess.automatic_suggestions import condition_sheet
from wamplex.app.assess.condition_card import ConditionCard
from wamplex.app.assess.development_panel import DevelopmentPanel
from wamplex.app.assess.suggestions import use_suggestions
from wamplex.app.assess.welcome import Welcome
from wamplex.app.shared import theme
from wamplex.app.shared.images import mask_overlay_image, to_image
from wamplex.app.shared.widgets import (
    button,
    frame,
    label,
    lay_out_step,
    plain_widget,
    scrolling_panel,
    toolbar,
)
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.tray import Tray
from wamplex.core.analysis.content.spots import Spot, unused_name
from wamplex.core.analysis.content.subject import mask_overlay
from wamplex.core.analysis.report.condition import Condition
from wamplex.core.analysis.report.finding import RowKey
from wamplex.core.base.errors import WamplexError
from wamplex.core.geometry.framing import from_framed, to_framed
from wamplex.core.model.development import Development
from wamplex.core.model.settings import load_settings, save_settings
from wamplex.core.model.source import Source

_MASK_OF_ROW: dict[str, AreaName] = {"subject": "subject", "blur": "sharp"}


class AssessStep(QWidget):
    """Bar, bench with the whole source, and the condition sheet."""

    announced = Signal(str)
    grey_picked = Signal(object, float, float)  # Source, shares of the upright picture

    def __init__(self, tray: Tray) -> None:
        super().__init__()
        self._tray = tray
        self._shown: object = None
        self._cards_of: int | None = None
        self._hovered: AreaName = ""
        self._picking = False
        self.developing = DevelopmentPanel()
        self.welcome = Welcome()
        self.view = AssessView()
        self.cards: dict[RowKey, ConditionCard] = {}
        self.spots_button = _toggle(
            "Spots", "Show the spots that trials are judged at. Drag to move a spot, Delete removes it"
        )
        self.spots_button.setChecked(True)
        self.subject_button = _toggle("Subject", "Show the detected main subject")
        self.faces_button = _toggle("Faces", "Show the faces that were found")
        self.sharp_button = _toggle("Sharp areas", "Show where the picture is sharp")
        self.add_button = button("Add a spot", "Then click its place in the picture", self._place)
        self.use_button = button(
            "Use the ticked suggestions", "Apply everything that is ticked above", self.use_ticked, "main"
        )
        self.automatic = QCheckBox("apply to new pictures automatically")
        self.automatic.setToolTip("New pictures get their suggestions as soon as they are measured")
        self.automatic.setChecked(load_settings().use_suggestions)
        self.automatic.toggled.connect(_keep_by_itself)
        self._waiting = label("", "soft")
        self._lay_out()
        self._connect()
        self.refresh()

    def refresh(self) -> None:
        """Show the selected entry."""
        self.welcome.setVisible(not self._tray.entries)
        self.view.setVisible(bool(self._tray.entries))
        entry = self._tray.current
        usable = entry is not None and entry.usable
        for control in (self.use_button, self.add_button):
            control.setEnabled(usable)
        if entry is None or not usable or entry.thumbnail is None:
            self.view.show_text("Add pictures: drop them here, or press Ctrl+O.")
            self._shown = None
            self._show_sheet(None)
            self._show_developing(None)
            return
        if entry.thumbnail is not self._shown:
            self._shown = entry.thumbnail
            self.view.show_image(to_image(entry.thumbnail))
        self._show_overlays(entry)
        self._show_sheet(entry)
        self._show_developing(entry)

    def _show_developing(self, entry: TrayEntry | None) -> None:
        exposure = None if entry is None or entry.condition is None else entry.condition.sensor
        self.developing.setVisible(exposure is not None)
        if entry is not None and exposure is not None:
            self.developing.show_development(entry.decisions.development, exposure, picking=self._picking)

    def _develop(self, development: Development, text: str) -> None:
        entry = self._usable()
        if entry is not None:
            self._tray.set_development(entry.number, development, text)

    def _pick_grey(self, picking: bool) -> None:
        self._picking = picking
        self.view.place_next(picking)
        if picking:
            self.announced.emit("Click something in the picture that should be neutral grey.")

    def take_grey(self, source: Source, gains: tuple[float, float] | None) -> None:
        """A place was looked at; None where it is too dark or cut off."""
        entry = self._usable()
        if entry is None or entry.source != source:
            return
        if gains is None:
            self.announced.emit("Too dark or clipped there: pick another place.")
            return
        development = entry.decisions.development.replace(neutral=gains, light=None)
        self._tray.set_development(entry.number, development, "grey")

    def use_ticked(self) -> None:
        """Do what is ticked, and say so."""
        entry = self._usable()
        if entry is None:
            return
        ticked = [card.chosen for card in self.cards.values() if card.chosen is not None]
        try:
            text = use_suggestions(self._tray, entry, ticked)
        except WamplexError as error:
            text = str(error)
        self.announced.emit(text[0].upper() + text[1:] + "." if text else "Nothing was ticked.")

    def _lay_out(self) -> None:
        rule = frame("divider")
        toggles = (self.spots_button, self.subject_button, self.faces_button, self.sharp_button)
        bar = toolbar(*toggles, 4, rule, 4, self.add_button, None)
        bench = plain_widget("bench")
        inside = QVBoxLayout(bench)
        inside.setContentsMargins(28, 28, 28, 28)
        inside.addWidget(self.welcome)
        inside.addWidget(self.view)
        footer = plain_widget("footer")
        below = QVBoxLayout(footer)
        below.setContentsMargins(theme.SPACE, 8, theme.SPACE, 10)
        below.setSpacing(6)
        below.addWidget(self._waiting)
        below.addWidget(self.use_button, 0, Qt.AlignmentFlag.AlignLeft)
        below.addWidget(self.automatic)
        panel, sheet = scrolling_panel(footer)
        sheet.addWidget(self.developing)
        sheet.addWidget(label("Condition sheet", "heading"))
        self._sheet = QVBoxLayout()
        self._sheet.setSpacing(7)
        sheet.addLayout(self._sheet)
        sheet.addStretch(1)
        lay_out_step(self, bar, bench, panel)

    def _connect(self) -> None:
        for toggle in (self.spots_button, self.faces_button):
            toggle.toggled.connect(lambda _on: self.refresh())
        for one, other in (
            (self.subject_button, self.sharp_button),
            (self.sharp_button, self.subject_button),
        ):
            one.toggled.connect(lambda on, other=other: self._show_mask(on, other))
        self.developing.changed.connect(self._develop)
        self.developing.pick_asked.connect(self._pick_grey)
        self.view.spot_dragged.connect(self._move_spot)
        self.view.spot_removed.connect(self._remove_spot)
        self.view.spot_placed.connect(self._add_spot)
        self._tray.selected.connect(lambda _number: self.refresh())
        self._tray.changed.connect(self._entry_changed)
        self._tray.measured.connect(self._entry_changed)
        self._tray.added.connect(lambda _number: self.welcome.hide())
        self._tray.added.connect(lambda _number: self.view.show())

    def _entry_changed(self, number: int) -> None:
        entry = self._tray.current
        if entry is not None and entry.number == number:
            self.refresh()

    def _usable(self) -> TrayEntry | None:
        entry = self._tray.current
        return entry if entry is not None and entry.usable else None

    def _show_mask(self, shown: bool, other: QPushButton) -> None:
        """One mask at a time."""
        if shown:
            other.setChecked(False)
        self.refresh()

    def _point_at(self, key: str) -> None:
        hovered = _MASK_OF_ROW.get(key, "")
        entry = self._usable()
        if hovered != self._hovered and entry is not None:
            self._hovered = hovered
            self._show_overlays(entry)  # the sheet itself stays as it is

    def _show_overlays(self, entry: TrayEntry) -> None:
        assert entry.header is not None
        place = (entry.framing, entry.header.width, entry.header.height)
        marks = []
        for spot in entry.spots if self.spots_button.isChecked() else ():
            marks.append(Mark(spot.name, *from_framed(*place, spot.x, spot.y)))
        self.view.show_marks(tuple(marks))
        condition = entry.condition
        faces = condition.faces if condition is not None and self.faces_button.isChecked() else ()
        wide, high = entry.header.width, entry.header.height
        self.view.show_faces(tuple(QRectF(f.x / wide, f.y / high, f.width / wide, f.height / high) for f in faces))
        self.view.show_overlay(self._overlay(condition))

    def _overlay(self, condition: Condition | None) -> QImage | None:
        shown: AreaName = self._hovered
        if not shown:
            shown = "subject" if self.subject_button.isChecked() else "sharp" if self.sharp_button.isChecked() else ""
        if condition is None or condition.areas is None or not shown:
            return None
        mask = condition.areas.subject if shown == "subject" else condition.areas.sharp
        return None if mask is None else mask_overlay_image(mask_overlay(mask))

    def _show_sheet(self, entry: TrayEntry | None) -> None:
        """Create the cards once for a picture, then fill them; a tick that the user removed stays removed."""
        number = None if entry is None else entry.number
        if number != self._cards_of:
            self._cards_of = number
            for card in self.cards.values():
                card.hide()
                card.deleteLater()
            self.cards = {}
        condition = None if entry is None else entry.condition
        if entry is None or condition is None:
            self._waiting.setText("Measuring…" if entry is not None else "Nothing to measure yet.")
            return
        assert entry.size is not None
        for row, finding in enumerate(condition_sheet(entry)):
            if finding.key not in self.cards:
                self.cards[finding.key] = self._new_card(finding.key, row)
            self.cards[finding.key].show_finding(finding, entry.info.evidence_crops.get(finding.key))
        done = entry.suggested is not None
        self._waiting.setText(f"Measured in {entry.info.measured_s:.1f} s" if done else "Measuring…")

    def _new_card(self, key: RowKey, row: int) -> ConditionCard:
        card = ConditionCard(key)
        card.pointed_at.connect(self._point_at)
        self._sheet.insertWidget(row, card)
        return card

    def _place(self) -> None:
        self.view.place_next(True)
        self.announced.emit("Click the place of the new spot in the picture.")

    def _move_spot(self, name: str, x: float, y: float) -> None:
        self._change_spots(lambda spot: self._moved(spot, x, y) if spot.name == name else spot)

    def _remove_spot(self, name: str) -> None:
        self._change_spots(lambda spot: None if spot.name == name else spot)

    def _moved(self, spot: Spot, x: float, y: float) -> Spot:
        return Spot(*self._to_framed_place(x, y), spot.kind, spot.name)

    def _to_framed_place(self, x: float, y: float) -> tuple[float, float]:
        """A place of the source as one of the framed picture, kept inside it."""
        entry = self._usable()
        assert entry is not None
        assert entry.header is not None
        across, down = to_framed(entry.framing, entry.header.width, entry.header.height, x, y)
        return min(max(across, 0.0), 1.0), min(max(down, 0.0), 1.0)

    def _change_spots(self, change) -> None:  # type: ignore[no-untyped-def]
        entry = self._usable()
        if entry is not None:
            spots = tuple(edited for spot in entry.spots if (edited := change(spot)) is not None)
            self._tray.set_spots(entry.number, spots)

    def _add_spot(self, x: float, y: float) -> None:
        entry = self._usable()
        if entry is None:
            return
        if self._picking:
            self._pick_grey(False)
            self._show_developing(entry)
            self.grey_picked.emit(entry.source, x, y)
            return
        name = unused_name(entry.spots)
        spot = Spot(*self._to_framed_place(x, y), "own", name)
        self._tray.set_spots(entry.number, (*entry.spots, spot))
        self.announced.emit(f"“{name}” was added to the proof sheet.")


def _toggle(text: str, tip: str) -> QPushButton:
    toggle = QPushButton(text)
    toggle.setCheckable(True)
    toggle.setToolTip(tip)
    toggle.setAccessibleName(text)
    return toggle


def _keep_by_itself(on: bool) -> None:
    save_settings(load_settings().replace(use_suggestions=on))
