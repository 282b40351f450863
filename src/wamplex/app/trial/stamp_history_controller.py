"""Remembers which trials are stamped, if the user allows it."""

from __future__ import annotations

from PySide6.QtCore import QObject

from wamplex.app.tray.change_kinds import ChangeKind
from wamplex.app.tray.tray import Tray
from wamplex.core.guests.guest import PREFIX
from wamplex.core.model.settings import load_settings
from wamplex.core.workflow.orders.stamp_history import picture_class, remember_choice


class StampHistoryController(QObject):
    """Sees each stamp."""

    def __init__(self, tray: Tray, parent: QObject) -> None:
        super().__init__(parent)
        self._tray = tray
        self._stamped: dict[int, str | None] = {}
        tray.changed.connect(self._changed)

    def chosen_blindly(self, _letter: str, upscaler_key: str) -> None:
        """A blind choice was made for the selected picture."""
        entry = self._tray.current
        if entry is not None:
            self._keep(entry.number, upscaler_key, blind=True)

    def _changed(self, number: int, changes: frozenset[ChangeKind]) -> None:
        if "trials" not in changes:
            return
        trials = self._tray.entry(number).trials
        stamped = None if trials.stamped is None else trials.find(trials.stamped).upscaler_key
        # A project that is opened brings its stamps along: they were remembered when they were set.
        if stamped != self._stamped.setdefault(number, stamped):
            self._stamped[number] = stamped
            self._keep(number, stamped)

    def _keep(self, number: int, upscaler_key: str | None, *, blind: bool = False) -> None:
        entry = self._tray.entry(number)
        if not load_settings().remember_choices or entry.condition is None or entry.suggested is None:
            return
        if upscaler_key is not None and upscaler_key.startswith(PREFIX):
            return  # it was never a choice that could be offered again
        remember_choice(entry.source, picture_class(entry.condition, entry.suggested), upscaler_key, blind=blind)
