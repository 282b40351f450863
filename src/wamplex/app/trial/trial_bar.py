"""The bar above the bench of the Trial step: views, zoom, trace, and what can be added."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QMenu, QVBoxLayout, QWidget

from wamplex.app.shared.widgets import ChoiceRow, button, label, toolbar
from wamplex.app.trial.scene import DISAGREEMENT, OUTSIDE, ViewName
from wamplex.core.readings.catalogue import READINGS
from wamplex.core.trial.registry import FRAMES_UPSCALERS, known_upscalers

_VIEWS: list[tuple[object, str, str]] = [
    ("sheet", "Sheet", "All spots in all trials, at final size"),
    ("linked", "Linked", "All trials side by side, linked"),
    ("curtain", "Curtain", "Two trials in one place with a movable divider"),
    ("blink", "Blink", "Two trials alternating in one place: the eye finds the differences"),
    ("difference", "Difference", "One trial minus another, amplified four times"),
]
_ZOOMS: list[tuple[object, str, str]] = [
    (None, "Fit", "Show the whole picture in every pane"),
    (0.25, "25 %", "Sixteen result pixels per screen pixel"),
    (0.5, "50 %", "Four result pixels per screen pixel"),
    (1.0, "100 %", "One screen pixel per result pixel"),
    (2.0, "200 %", "Show every result pixel 2 × 2"),
    (4.0, "400 %", "Show every result pixel 4 × 4"),
    (8.0, "800 %", "Show every result pixel 8 × 8"),
    ("print", "Print size", "Actual print size, if the screen reports its size correctly"),
]
TAKE_AWAY = (
    ("pdf", "Proof sheet as PDF…"),
    ("png", "Proof sheet as PNG…"),
    ("html", "Proof sheet as a page for a browser…"),
    ("strip-10x15", "Paper strip, 10 × 15 cm…"),
    ("strip-a5", "Paper strip, A5…"),
    ("strip-a4", "Paper strip, A4…"),
)
_SHEET_ZOOMS = (0.5, 1.0, 2.0, 4.0, "print")


class TrialBar(QWidget):
    """Says what was pressed; decides nothing."""

    view_chosen = Signal(str)
    zoom_chosen = Signal(object)
    trace_chosen = Signal(object)  # reading key or None
    trial_asked = Signal(str)  # upscaler key
    guest_asked = Signal()
    rows_asked = Signal(bool)  # whether two
    spot_asked = Signal()
    favourites_asked = Signal(bool)  # whether the usual ones are wanted again
    test_asked = Signal()
    hide_asked = Signal(bool)
    take_away_asked = Signal(str)  # "pdf", "png", "html", or a paper of the strip

    def __init__(self) -> None:
        super().__init__()
        self.for_raw = False  # whether what works on a mosaic is offered
        self.proofed = False  # whether a print is proofed
        self.views = ChoiceRow("View", _VIEWS, lambda view: self.view_chosen.emit(str(view)))
        self.zoom_buttons = ChoiceRow("Zoom", _ZOOMS, self.zoom_chosen.emit)
        self.zoom_text = label("", "soft")
        self.trace_button = button("Trace: none", "Draw a reading over the trials", self._open_traces)
        self.add_button = button("Add a trial", "Add a trial", self._open_chooser)
        self.spot_button = button(
            "Add a spot", "Add the centre of the view to the sheet as a spot", self.spot_asked.emit
        )
        tip = "Show the trials in two rows or in one"
        self.rows_button = button("2 rows", tip, self._ask_rows)
        self.rows_button.setCheckable(True)
        self.rows_button.hide()
        self.test_button = button(
            "Known-answer test",
            "Shrink the picture, enlarge it again with every trial, and see which is closest",
            self.test_asked.emit,
        )
        self.hide_button = button(
            "Hide names", "Shuffle the trials and hide their names, to choose by eye alone", self._hide
        )
        self.hide_button.setCheckable(True)
        self.take_button = button("Save sheet", "Save the proof sheet, or a paper strip to print", self._open_take_away)
        upper = toolbar(self.views, None, self.hide_button, self.test_button, self.spot_button, self.add_button)
        lower = toolbar(
            self.zoom_buttons,
            self.zoom_text,
            None,
            self.rows_button,
            self.trace_button,
            self.take_button,
        )
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(0)
        inside.addWidget(upper)
        inside.addWidget(lower)

    def show_view(self, view: ViewName) -> None:
        """Press the button of a view; offer what makes sense in it."""
        self.views.show_value(view)
        for value, _, _ in _ZOOMS:
            self.zoom_buttons.button_for(value).setVisible(view != "sheet" or value in _SHEET_ZOOMS)
        self.spot_button.setVisible(view != "sheet")
        self.trace_button.setVisible(view != "difference")

    def show_rows(self, rows: int, offered: bool) -> None:
        """Offer two rows where there are trials enough."""
        self.rows_button.setVisible(offered)
        self.rows_button.setChecked(rows == 2)

    def show_hidden(self, hidden: bool) -> None:
        """While names are hidden, nothing is offered that would tell them."""
        self.hide_button.setChecked(hidden)
        for tells in (self.add_button, self.test_button, self.take_button):
            tells.setVisible(not hidden)

    def show_trace(self, trace: str | None) -> None:
        """Say which reading is drawn."""
        name = next((r.name for r in READINGS if r.key == trace), "none")
        name = {DISAGREEMENT: "disagreement", OUTSIDE: "out of gamut"}.get(trace or "", name)
        self.trace_button.setText(f"Trace: {name.lower()}")

    def _ask_rows(self) -> None:
        self.rows_asked.emit(self.rows_button.isChecked())

    def _hide(self) -> None:
        self.hide_asked.emit(self.hide_button.isChecked())

    def _open_take_away(self) -> None:
        menu = self._menu()
        for kind, text in TAKE_AWAY:
            action = menu.addAction(text)
            action.triggered.connect(lambda _checked=False, kind=kind: self.take_away_asked.emit(kind))
        menu.popup(self.take_button.mapToGlobal(self.take_button.rect().bottomLeft()))

    def _open_chooser(self) -> None:
        menu = self._menu()
        for upscaler in known_upscalers():
            if (upscaler.sees_sensor and not self.for_raw) or upscaler in FRAMES_UPSCALERS:
                continue
            action = menu.addAction(f"{upscaler.name}: {upscaler.purpose}")
            action.triggered.connect(lambda _checked=False, key=upscaler.key: self.trial_asked.emit(key))
        action = menu.addAction("Guest: a file enlarged elsewhere…")
        action.triggered.connect(self.guest_asked)
        menu.addSeparator()
        for usual, text in (
            (False, "Start new pictures with these trials"),
            (True, "Start with the default trials"),
        ):
            action = menu.addAction(text)
            action.triggered.connect(lambda _checked=False, usual=usual: self.favourites_asked.emit(usual))
        menu.popup(self.add_button.mapToGlobal(self.add_button.rect().bottomLeft()))

    def _open_traces(self) -> None:
        menu = self._menu()
        menu.addAction("None").triggered.connect(lambda _checked=False: self.trace_chosen.emit(None))
        action = menu.addAction("Disagreement: where the trials differ most from each other.")
        action.triggered.connect(lambda _checked=False: self.trace_chosen.emit(DISAGREEMENT))
        if self.proofed:
            action = menu.addAction("Out of gamut: colours that the printer cannot print.")
            action.triggered.connect(lambda _checked=False: self.trace_chosen.emit(OUTSIDE))
        for reading in READINGS:
            action = menu.addAction(f"{reading.name}: {reading.look_for}")
            action.triggered.connect(lambda _checked=False, key=reading.key: self.trace_chosen.emit(key))
        menu.popup(self.trace_button.mapToGlobal(self.trace_button.rect().bottomLeft()))

    def _menu(self) -> QMenu:
        from PySide6.QtCore import Qt

        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        return menu


def is_preset(scale: float) -> bool:
    """Whether a button says that zoom already."""
    return any(isinstance(value, float) and abs(value - scale) < 1e-6 for value, _, _ in _ZOOMS)
