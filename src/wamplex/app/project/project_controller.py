"""Opening and saving projects from the window: dialogs, missing pictures, lost work."""

from __future__ import annotations

import glob
import os
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QFileDialog, QWidget

from wamplex.app.project.project_model import ProjectModel, lost_work
from wamplex.app.project.tray_state import missing_guests, missing_pictures
from wamplex.app.shared.notice_bar import NoticeBar
from wamplex.app.tray.tray import Tray
from wamplex.core.base.atomic_files import discard, set_aside
from wamplex.core.base.errors import ProjectError
from wamplex.core.workflow.projects.project import SUFFIX, Project

_FILTER = f"Wamplex projects (*{SUFFIX})"


class ProjectController(QObject):
    """Asks for files, tells what went wrong; the model does the work.

    Parameters
    ----------
    look : called with the path of each picture that is new in the tray
    took_in : called with a project after it was opened
    """

    def __init__(
        self,
        parent: QWidget,
        model: ProjectModel,
        tray: Tray,
        notices: NoticeBar,
        look: Callable[[Path], None],
        took_in: Callable[[Project], None],
    ) -> None:
        super().__init__(parent)
        self._window = parent
        self._model, self._tray, self._notices = model, tray, notices
        self._look, self._took_in = look, took_in

    def save(self) -> None:
        """Save; ask where at the first time."""
        if self._model.path is None:
            self.save_elsewhere()
        else:
            self.save_to(self._model.path)

    def save_elsewhere(self) -> None:
        """Ask where, and save."""
        chosen, _ = QFileDialog.getSaveFileName(self._window, "Save the project", f"project{SUFFIX}", _FILTER)
        if chosen:
            self.save_to(Path(chosen))

    def save_to(self, path: Path) -> None:
        """Save at a place."""
        try:
            self._model.save(path)
        except ProjectError as error:
            self._notices.warn(str(error))

    def ask_open(self) -> None:
        """Ask which project, and open it."""
        chosen, _ = QFileDialog.getOpenFileName(self._window, "Open a project", "", _FILTER)
        if chosen:
            self.open(Path(chosen))

    def open(self, path: Path, *, as_recovery: bool = False) -> bool:
        """Open a project into the tray; False when it cannot be read, which is said."""
        try:
            entries, project = self._model.open(path, as_recovery=as_recovery)
        except ProjectError as error:
            self._notices.warn(str(error))
            return False
        for entry in entries:
            self._look(entry.path)
        self._took_in(project)
        lacking = missing_guests(project)
        if lacking:
            self._notices.warn(
                f"A guest of {_named(lacking)} is not on this computer. Add its file again, or continue without it."
            )
        missing = missing_pictures(project)
        if missing:
            self._notices.warn(
                f"Not found: {_named(missing)}. If the pictures were moved, choose their new folder.",
                ("Look in a folder…", "Find missing pictures by their names", self._ask_folder),
            )
        return True

    def find_in(self, folder: Path) -> int:
        """Point entries whose file is missing to one of the same name below a folder; how many."""
        count = 0
        for entry in self._tray.entries:
            if os.path.exists(entry.path):
                continue
            candidate = next((p for p in sorted(folder.rglob(glob.escape(entry.path.name))) if p.is_file()), None)
            if candidate is not None:
                self._tray.point_to(entry.number, candidate)
                self._look(entry.path)
                count += 1
        still = sum(1 for entry in self._tray.entries if not os.path.exists(entry.path))
        if still:
            self._notices.warn(f"{count} found, {still} still missing.")
        return count

    def offer_recovery(self) -> None:
        """Offer the work of programs that ended without saving, the latest first, one after the other."""
        self._offer(lost_work())

    def _offer(self, lost: list[Path]) -> None:
        if not lost:
            return
        first, rest = lost[0], lost[1:]
        when = datetime.fromtimestamp(first.stat().st_mtime).strftime("%H:%M on %d %B")
        more = f" {len(rest)} more can be recovered." if rest else ""
        self._notices.say(
            f"Work of {when} was not saved as a project.{more}",
            ("Recover the work", "Open the unsaved work", lambda: self._recover(first, rest)),
            ("Discard", "Discard the unsaved work", lambda: self._discard(first, rest)),
        )

    def _recover(self, lost: Path, rest: list[Path]) -> None:
        """Take up one; its file goes only once the work is safe in this program's own."""
        if not self.open(lost, as_recovery=True):
            saved = set_aside(lost)
            self._notices.warn(f"The unsaved work is damaged. The file was kept: {saved}")
            return
        self._model.save_for_recovery()
        self._model.finish()
        if self._model.saved_for_recovery:
            discard(lost)
        self._offer(rest)

    def _discard(self, lost: Path, rest: list[Path]) -> None:
        discard(lost)
        self._offer(rest)

    def _ask_folder(self) -> None:
        chosen = QFileDialog.getExistingDirectory(self._window, "Where are the pictures?")
        if chosen:
            self.find_in(Path(chosen))


def _named(paths: list[Path]) -> str:
    """The first names of a list."""
    return ", ".join(path.name for path in paths[:3]) + (" ..." if len(paths) > 3 else "")
