"""Opening and saving projects from the window: dialogs, missing pictures, lost work."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QFileDialog, QWidget

from wamplex.app.project.project_model import ProjectModel, lost_work
from wamplex.app.project.saving import missing_pictures
from wamplex.app.tray.tray import Tray
from wamplex.app.window.notice_bar import NoticeBar
from wamplex.core.errors import ProjectError
from wamplex.core.project import SUFFIX, Project

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

    def open(self, path: Path, *, as_recovery: bool = False) -> None:
        """Open a project into the tray."""
        try:
            entries, project = self._model.open(path, as_recovery=as_recovery)
        except ProjectError as error:
            self._notices.warn(str(error))
            return
        for entry in entries:
            self._look(entry.path)
        self._took_in(project)
        missing = missing_pictures(project)
        if missing:
            names = ", ".join(p.name for p in missing[:3]) + (" ..." if len(missing) > 3 else "")
            self._notices.warn(
                f"Not found: {names}. If the pictures were moved, say where they are now.",
                ("Look in a folder ...", "Find missing pictures by their names", self._ask_folder),
            )

    def find_in(self, folder: Path) -> int:
        """Point entries whose file is missing to one of the same name below a folder; how many."""
        found = 0
        for entry in self._tray.entries:
            if entry.path.exists():
                continue
            candidate = next((p for p in sorted(folder.rglob(entry.path.name)) if p.is_file()), None)
            if candidate is not None:
                self._tray.point_to(entry.number, candidate)
                self._look(entry.path)
                found += 1
        still = sum(1 for entry in self._tray.entries if not entry.path.exists())
        if still:
            self._notices.warn(f"{found} found, {still} still missing.")
        return found

    def offer_recovery(self) -> None:
        """Offer the work of a program that ended without saving."""
        lost = lost_work()
        if not lost:
            return
        when = datetime.fromtimestamp(lost[0].stat().st_mtime).strftime("%H:%M on %d %B")
        self._notices.say(
            f"There is work of {when} that was not saved as a project.",
            ("Take the work up", "Open what was being worked on", lambda: self._recover(lost)),
            ("Discard it", "Delete what was kept", lambda: _delete(lost)),
        )

    def _recover(self, lost: list[Path]) -> None:
        self.open(lost[0], as_recovery=True)
        self._model.save_for_recovery()
        _delete(lost)

    def _ask_folder(self) -> None:
        chosen = QFileDialog.getExistingDirectory(self._window, "Where are the pictures?")
        if chosen:
            self.find_in(Path(chosen))


def _delete(paths: list[Path]) -> None:
    for path in paths:
        path.unlink(missing_ok=True)
