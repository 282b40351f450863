"""Files enlarged elsewhere join the trials of a picture."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QFileDialog, QWidget

from wamplex.app.shared.notice_bar import NoticeBar
from wamplex.app.tray.tray import Tray
from wamplex.app.tray.trials import MOST_IN_VIEW
from wamplex.app.workers.files.guests import GuestThread
from wamplex.core.guests.guest import Guest
from wamplex.core.intake.formats import FILE_DIALOG_PATTERNS
from wamplex.core.intake.picture_cache import PictureCache


class GuestsController(QObject):
    """Asks for a file, reads it off the GUI thread, and adds it to the trials."""

    worked = Signal(float, str)
    ended = Signal(str)

    def __init__(self, parent: QWidget, tray: Tray, store: PictureCache, notices: NoticeBar) -> None:
        super().__init__(parent)
        self._window, self._tray, self._store, self._notices = parent, tray, store, notices
        self._thread: GuestThread | None = None

    @property
    def busy(self) -> bool:
        """Whether a file is being read."""
        return self._thread is not None

    def ask(self) -> None:
        """Let the user choose a file for the selected picture."""
        chosen, _ = QFileDialog.getOpenFileName(
            self._window, "A file enlarged elsewhere", "", f"Pictures ({FILE_DIALOG_PATTERNS});;All files (*)"
        )
        if chosen:
            self.take_in(Path(chosen))

    def take_in(self, path: Path) -> None:
        """Add a file to the trials of the selected picture, once it was seen how it lies."""
        entry = self._tray.current
        if entry is None or not entry.usable or self.busy:
            return
        if not entry.trials.can_add:
            self._notices.warn(f"There are {MOST_IN_VIEW} trials already. Strike one first.")
            return
        number = entry.number
        self._thread = GuestThread(self._store, entry.source, entry.delivered_recipe(), path, self)
        self._thread.progressed.connect(self.worked)
        self._thread.added.connect(lambda guest: self._joined(number, guest))
        self._thread.refused.connect(self._notices.warn)
        self._thread.finished.connect(self._ended)
        self._thread.start()

    def cancel(self) -> None:
        """Take nothing in; returns when the thread has ended."""
        if self._thread is not None:
            self._thread.cancel()
            self._thread.wait()

    def _joined(self, number: int, guest: Guest) -> None:
        entry = self._tray.entry(number)
        trials = entry.trials.add(guest.key)
        self._tray.set_trials(number, trials)
        self._notices.say(f"{guest.name} is trial {trials.active}: {guest.provenance}")

    def _ended(self) -> None:
        if self._thread is not None:
            self._thread.wait()
        self._thread = None
        self.ended.emit("Ready")
