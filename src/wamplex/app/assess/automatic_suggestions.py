"""Applies the ticked suggestions as soon as a picture is measured, if the user has switched this on."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from wamplex.app.assess.suggestions import use_suggestions
from wamplex.app.tray.change_kinds import ChangeKind
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.tray import Tray
from wamplex.core.analysis.report.finding import Finding
from wamplex.core.analysis.report.findings import describe_condition
from wamplex.core.base.errors import WamplexError
from wamplex.core.model.settings import load_settings


class AutomaticSuggestions(QObject):
    """For pictures that nothing was decided about yet, once each."""

    announced = Signal(str)

    def __init__(self, tray: Tray, parent: QObject) -> None:
        super().__init__(parent)
        self._tray = tray
        self._done: set[int] = set()
        tray.changed.connect(self._changed)

    def _changed(self, number: int, changes: frozenset[ChangeKind]) -> None:
        if "measured" not in changes or number in self._done or not load_settings().use_suggestions:
            return
        entry = self._tray.entry(number)
        if entry.condition is None or entry.decisions != entry.at_first:
            return
        self._done.add(number)
        sheet = condition_sheet(entry)
        ticked = [f.suggestion for f in sheet if f.suggestion is not None and f.suggestion.at_first]
        try:
            text = use_suggestions(self._tray, entry, ticked)
        except WamplexError as error:
            text = str(error)
        if text:
            self.announced.emit(f"{entry.path.name}, automatically: {text}. Ctrl+Z undoes it.")


def condition_sheet(entry: TrayEntry) -> tuple[Finding, ...]:
    """The rows of a picture's condition sheet, for the print that is wanted."""
    assert entry.condition is not None
    sheet = entry.sheet
    print_size = {} if sheet is None else {"print_mm": max(sheet.width_mm, sheet.height_mm)}
    return describe_condition(entry.condition, density_ppi=300.0, **print_size)
