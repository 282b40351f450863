"""Saves the work for recovery, off the GUI thread."""

from __future__ import annotations

from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from wamplex.core.base.atomic_files import discard
from wamplex.core.base.errors import ProjectError
from wamplex.core.model.assets import process_assets
from wamplex.core.workflow.projects.project import Project, save_project


class Autosave(QObject):
    """One file, written again and again; only the latest state waits to be written."""

    failed = Signal(str)  # a sentence, once until it works again

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._thread = ThreadPoolExecutor(1, "autosave")
        self._pending: Future[None] | None = None
        self._failing = False

    def write(self, project: Project, path: Path) -> None:
        """Write soon; what still waits is left out for it."""
        self._stop()
        self._pending = self._thread.submit(self._write, project, path)

    def forget(self, path: Path) -> None:
        """Take the file away; nothing that was asked for before brings it back."""
        self.finish()
        discard(path)

    def finish(self) -> None:
        """Wait for what is being written."""
        if self._pending is not None:
            self._pending.exception()
            self._pending = None

    def _stop(self) -> None:
        if self._pending is not None:
            self._pending.cancel()

    def _write(self, project: Project, path: Path) -> None:
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            save_project(project, path, process_assets(), durable=False)
        except (OSError, ProjectError) as error:
            if not self._failing:
                cause = error.__cause__ if isinstance(error, ProjectError) else error  # without the file's own name
                reason = (getattr(cause, "strerror", None) or str(error)).lower().rstrip(".")
                self.failed.emit(f"The work cannot be saved for recovery: {reason}. Save the project elsewhere.")
            self._failing = True
        else:
            self._failing = False
