"""Imports a file enlarged elsewhere, off the GUI thread."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, QThread, Signal

from wamplex.core.base.errors import Cancelled, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.guests.guest_store import add_guest
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.trial.developed_picture import develop_picture


class GuestThread(QThread):
    """One file, for one picture."""

    progressed = Signal(float, str)
    added = Signal(object)  # Guest
    refused = Signal(str)

    def __init__(
        self, store: PictureCache, source: Source, recipe: Recipe, path: Path, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._store, self._source, self._recipe, self._path = store, source, recipe, path
        self._progress = Progress(self.progressed.emit)

    def cancel(self) -> None:
        """Take nothing in."""
        self._progress.cancel()

    def run(self) -> None:
        """The thread's work."""
        try:
            picture = develop_picture(self._store.get(self._source, self._progress), self._recipe, self._progress)
            guest = add_guest(self._path, picture, self._progress)
        except Cancelled:
            return
        except Exception as error:
            self.refused.emit(user_message(error, f"There is not enough memory for {self._path.name}."))
        else:
            self.added.emit(guest)
