"""Saves the work for recovery, off the GUI thread."""

from __future__ import annotations

from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

from wamplex.core.base.errors import ProjectError
from wamplex.core.model.assets import process_assets
from wamplex.core.workflow.projects.project import Project, save_project


class Autosave:
    """One file, written again and again; only the latest state waits to be written."""

    def __init__(self) -> None:
        self._thread = ThreadPoolExecutor(1, "autosave")
        self._pending: Future[None] | None = None

    def write(self, project: Project, path: Path) -> None:
        """Write soon; what still waits is left out for it."""
        self._stop()
        self._pending = self._thread.submit(_write, project, path)

    def forget(self, path: Path) -> None:
        """Take the file away; nothing that was asked for before brings it back."""
        self.finish()
        path.unlink(missing_ok=True)

    def finish(self) -> None:
        """Wait for what is being written."""
        if self._pending is not None:
            self._pending.exception()
            self._pending = None

    def _stop(self) -> None:
        if self._pending is not None:
            self._pending.cancel()


def _write(project: Project, path: Path) -> None:
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        save_project(project, path, process_assets(), durable=False)
    except (OSError, ProjectError):
        return  # a full disk must not disturb the work; saving by hand will say so
