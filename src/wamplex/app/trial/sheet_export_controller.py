"""Asks where the proof sheet or the paper strip goes, and writes it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QFileDialog, QWidget

from wamplex.app.shared.notice_bar import NoticeBar
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.workers.output.sheet_export import SheetExport, SheetExportThread
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.sheet_export.cells import Column


class SheetExportController(QObject):
    """One file at a time."""

    progressed = Signal(float, str)

    def __init__(self, parent: QWidget, store: PictureCache, notices: NoticeBar) -> None:
        super().__init__(parent)
        self._window, self._store, self._notices = parent, store, notices
        self._thread: SheetExportThread | None = None

    @property
    def busy(self) -> bool:
        """Whether a file is being written."""
        return self._thread is not None

    def ask(self, entry: TrayEntry, kind: str) -> None:
        """Ask for a file, and write it."""
        suffix = ".pdf" if kind.startswith("strip-") else f".{kind}"
        default_name = "paper-strip" if kind.startswith("strip-") else "proof"
        name = str(entry.path.with_name(f"{entry.path.stem}-{default_name}{suffix}"))
        chosen, _ = QFileDialog.getSaveFileName(self._window, "Save the sheet", name, f"*{suffix}")
        if chosen:
            self.write(entry, kind, Path(chosen).with_suffix(suffix))

    def write(self, entry: TrayEntry, kind: str, target: Path) -> None:
        """Write it."""
        if self.busy:
            self._notices.say("One sheet is still being written.")
            return
        if not entry.spots:
            self._notices.say("There are no spots on the sheet yet. Add one in the Linked view.")
            return
        request = SheetExport(kind, entry.source, entry.spots, sheet_columns(entry), target)
        self._thread = SheetExportThread(self._store, request, self)
        self._thread.progressed.connect(self.progressed)
        self._thread.done.connect(lambda path: self._notices.say(f"Written: {path}"))
        self._thread.failed.connect(self._notices.warn)
        self._thread.finished.connect(self._ended)
        self._thread.start()

    def cancel(self) -> None:
        """Stop what is being written."""
        if self._thread is not None:
            self._thread.cancel()
            self._thread.wait()

    def _ended(self) -> None:
        self._thread = None


def sheet_columns(entry: TrayEntry) -> tuple[Column, ...]:
    """The trials in the running; what is delivered also finished, right beside itself without Finish."""
    columns = []
    finished = entry.delivered_recipe().replace(sheet=None)
    for trial in entry.trials.remaining:
        recipe = entry.trial_recipe(trial)
        columns.append(Column(trial.letter, recipe))
        if recipe == finished.unfinished != finished:
            columns.append(Column(f"{trial.letter}+", finished))
    return tuple(columns)
