"""The open project: saving, opening and recovery."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Protocol

from platformdirs import user_state_path
from PySide6.QtCore import QObject, QTimer, Signal

from wamplex.app.project.tray_state import ProjectState, Saving, entry_decisions, restore
from wamplex.app.shared.batches import BatchedUpdates
from wamplex.app.tray.change_kinds import ChangeKind
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.tray import Tray
from wamplex.core.base.process_identity import is_identity_alive, process_identity
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.model.assets import process_assets
from wamplex.core.workflow.projects.project import SUFFIX, Project, open_project, save_project

# Work since the last automatic save that a crash may cost.
_AUTOSAVE_MS = 2000
_FIRST_SAVE_MS = 150
_IDENTITY = re.compile("[0-9]{1,10}(-[0-9]{1,20}-[0-9a-f-]{36})?")  # see `process_identity`
_MEASURED = frozenset[ChangeKind]({"thumbnail", "notices", "made", "measured"})


class AutosaveWriter(Protocol):
    """Writes the work for recovery off the GUI thread."""

    def write(self, project: Project, path: Path) -> None:
        """Write soon."""

    def forget(self, path: Path) -> None:
        """Take the file away."""

    def finish(self) -> None:
        """Wait for what is being written."""


class ProjectModel(QObject):
    """Path and unsaved state of the project.

    Parameters
    ----------
    delivery : gives the present delivery settings
    autosave : writes for recovery
    """

    changed = Signal()

    def __init__(self, tray: Tray, delivery: Callable[[], Delivery], autosave: AutosaveWriter) -> None:
        super().__init__()
        self._tray = tray
        self._delivery = delivery
        self._autosave = autosave
        self.path: Path | None = None
        self.blind_choices: dict[str, int] = {}
        self.unsaved = False
        self._cached: tuple[object, ...] | None = None
        self._saving = Saving()
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._save_in_batches)
        self._rest = QTimer(self)  # runs for a while after each save
        self._rest.setSingleShot(True)
        self._first = BatchedUpdates(self)
        tray.changed.connect(self._entry_changed)
        tray.added.connect(lambda _number: self._save_first())
        tray.reordered.connect(self.touch)

    @property
    def name(self) -> str:
        """Name of the project; empty while it has no file."""
        return self.path.stem if self.path is not None else ""

    def _save_first(self) -> None:
        """New pictures are saved almost at once, unless the last save was a moment ago: many may come."""
        if not self._rest.isActive():
            self._timer.start(_FIRST_SAVE_MS)
        else:
            self.touch()

    def touch(self) -> None:
        """Check for changes soon and save them for recovery."""
        if not self._timer.isActive():  # else what changes without end would put it off without end
            self._timer.start(_AUTOSAVE_MS)

    def _entry_changed(self, number: int, changes: frozenset[ChangeKind]) -> None:
        if "file" in changes:  # of a thousand that are taken in, each is made when it comes, not all at once
            self._saving.prepare(self._tray.entry(number))
        if changes - _MEASURED:
            self.touch()

    def look(self) -> bool:
        """Whether anything differs from what was saved last."""
        return self._compare(self._work())

    def _compare(self, work: ProjectState) -> bool:
        self.unsaved = bool(self._tray.entries) and work.decided != self._cached
        self.changed.emit()
        return self.unsaved

    def save(self, path: Path | None = None) -> None:
        """Save where it lies, or at a new place.

        Raises
        ------
        ProjectError : when it cannot be written
        """
        target = path or self.path
        assert target is not None
        if target.suffix != SUFFIX:
            target = target.with_name(target.name + SUFFIX)
        project = self._work().project
        save_project(project, target, process_assets())
        self.path, self._cached = target, _decided(project)
        self.forget_recovery()
        self.look()

    def open(self, path: Path, *, as_recovery: bool = False) -> tuple[list[TrayEntry], Project]:
        """Take the pictures of a project into the tray, with all decisions; returns the new entries.

        Raises
        ------
        ProjectError : when it cannot be read
        """
        project, parts = open_project(path)
        process_assets().take_in(parts)
        entries = self._tray.add([picture.path for picture in project.pictures])
        by_path = {entry.path: entry for entry in entries}
        for picture in project.pictures:
            entry = by_path.get(picture.path.absolute())
            if entry is not None:
                restore(self._tray, entry.number, picture)
        self.blind_choices = dict(project.blind_choices)
        if not as_recovery:
            self.path, self._cached = path.absolute(), _decided(project)
        self.touch()
        return entries, project

    def _save_in_batches(self) -> None:
        """Save for recovery once each picture has been made ready: a thousand new ones take two frames."""
        for entry in self._tray.entries:
            self._first.put(partial(self._saving.prepare, entry))
        self._first.put(self.save_for_recovery)

    def save_for_recovery(self) -> None:
        """Have the work as it is written to a place of its own, quietly."""
        self._timer.stop()
        self._first.clear()
        self._rest.start(_AUTOSAVE_MS)
        work = self._work()
        if self._compare(work):
            self._autosave.write(work.project, recovery_path())

    def forget_recovery(self) -> None:
        """The work is safe elsewhere, or not wanted."""
        self._timer.stop()
        self._first.clear()
        self._autosave.forget(recovery_path())

    def finish(self) -> None:
        """Wait until what is to be recovered is written."""
        self._autosave.finish()

    @property
    def saved_for_recovery(self) -> bool:
        """Whether this program's unsaved work lies on the disk."""
        return recovery_path().exists()

    def _work(self) -> ProjectState:
        return self._saving.work(self._tray, self._delivery(), self.blind_choices)


def _decided(project: Project) -> tuple[object, ...]:
    return (tuple(entry_decisions(picture) for picture in project.pictures), project.delivery, project.blind_choices)


def recovery_path(process: int | None = None) -> Path:
    """Path of the unsaved work of a running program, by its number; of this one without a number."""
    return user_state_path("wamplex") / f"recovery-{process_identity(process)}{SUFFIX}"


def lost_work() -> list[Path]:
    """Unsaved work of programs that no longer run, the latest first."""
    lost = []
    for path in user_state_path("wamplex").glob(f"recovery-*{SUFFIX}"):
        identity = path.stem.removeprefix("recovery-")
        # Other names, and links that lead nowhere, are not ours.
        if _IDENTITY.fullmatch(identity) and path.is_file() and not is_identity_alive(identity):
            lost.append(path)
    return sorted(lost, key=lambda path: -path.stat().st_mtime)
