"""Reads and measures the files of the tray, and reads them again when they change."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QFileDialog, QWidget

from wamplex.app.shared.batches import BatchedUpdates
from wamplex.app.shared.freeze_gc import MANY, freeze_gc
from wamplex.app.tray.change_kinds import ChangeKind
from wamplex.app.tray.decision_effects import expand_folders
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.tray import Tray
from wamplex.app.workers.files.loader import Loader
from wamplex.app.workers.files.thumbnails import ThumbnailKey, Thumbnails
from wamplex.app.workers.files.watch import SourceWatch
from wamplex.core.intake.compressed_thumbnail import Thumbnail
from wamplex.core.intake.probe import Probe
from wamplex.core.workflow.recipe_transfer.similar_shots import ShotInfo

_SOON_MS = 30  # at least; the more pictures there are, the longer it takes to go through them
# So many files are added at once; a flood of more comes in portions, between which the window answers.
_AT_ONCE, _PORTION = 50, 10
_WARM_UP_MS = 400  # once the window has been painted


class FilesController:
    """Between the tray, the loader, what frames thumbnails, and what watches files."""

    def __init__(self, window: QWidget, tray: Tray, loader: Loader) -> None:
        self._window, self._tray, self._loader = window, tray, loader
        self.thumbnails, self.watch = Thumbnails(window), SourceWatch(window)
        self._soon = QTimer(window)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._look_at_all)
        self._incoming, self._pending, self._came = BatchedUpdates(window), BatchedUpdates(window), 0
        loader.looked.connect(lambda *found: self._pending.put(partial(self._take_header, *found)))
        loader.failed.connect(lambda *why: self._pending.put(partial(tray.file_facts.unusable, *why)))
        loader.measured.connect(tray.file_facts.condition)
        loader.all_measured.connect(tray.file_facts.measured)
        loader.large.connect(tray.thumbnails.set_large)
        loader.cut.connect(tray.file_facts.evidence_crops)
        self.thumbnails.ready.connect(self._framed)
        self.watch.changed.connect(self.look_again)
        tray.changed.connect(self._entry_changed)
        tray.selected.connect(self._selected)
        tray.reordered.connect(self._watch_sources)
        QTimer.singleShot(_WARM_UP_MS, loader.warm_up)

    def take_in(self, paths: list[Path]) -> None:
        """Add files, and the pictures of folders, to the tray, and look at them."""
        files = expand_folders(paths)
        self._add(files[:_AT_ONCE])
        for first in range(_AT_ONCE, len(files), _PORTION):
            self._incoming.put(partial(self._add, files[first : first + _PORTION]))

    def end(self) -> None:
        """Add no more files."""
        self._incoming.clear()

    def _add(self, files: list[Path]) -> None:
        for entry in self._tray.add(files):
            self._loader.look(entry.path)

    def _take_header(self, header: Probe, thumbnail: Thumbnail, shot_info: ShotInfo | None) -> None:
        self._tray.file_facts.picture(header, thumbnail, shot_info)
        self._came += 1
        if self._came % MANY == 0:
            freeze_gc()
        if self._tray.entry_with(header.source) is not None:
            self._loader.measure(header.source)

    def find_file(self, number: int) -> None:
        """Ask where the file of a picture lies now."""
        name = self._tray.entry(number).path.name
        chosen, _ = QFileDialog.getOpenFileName(self._window, f"Where is {name}?")
        if chosen:
            self._tray.point_to(number, Path(chosen))
            self._loader.look(self._tray.entry(number).path)

    def look_again(self, path: Path) -> None:
        """A file has changed on the disk."""
        for entry in self._tray.entries:
            if entry.path == path:
                self._loader.look(entry.path)

    def _selected(self, _number: int) -> None:
        """Load the large thumbnail of the newly selected picture."""
        entry = self._tray.current
        if entry is not None and self._tray.thumbnails.is_small(entry):
            self._loader.look_closer(entry.source)
        if entry is not None and entry.suggested is not None and not entry.info.evidence_crops:
            assert entry.condition is not None
            self._loader.make_evidence_crops(entry.source, entry.condition)

    def _entry_changed(self, _number: int, changes: frozenset[ChangeKind]) -> None:
        if changes & {"file", "framing"} and not self._soon.isActive():
            self._soon.start(max(_SOON_MS, len(self._tray.entries)))

    def _look_at_all(self) -> None:
        """Update once for all pictures that were just added."""
        self.thumbnails.request([_thumbnail_key(entry) for entry in self._tray.thumbnails.to_be_framed])
        self._watch_sources()

    def _framed(self, key: ThumbnailKey, shown: Thumbnail) -> None:
        self._tray.thumbnails.set_framed(key.number, key.source, key.framing, shown)

    def _watch_sources(self) -> None:
        headers = [entry.info.header for entry in self._tray.entries]
        self.watch.watch([probe.source for probe in headers if probe is not None])


def _thumbnail_key(entry: TrayEntry) -> ThumbnailKey:
    assert entry.header is not None
    assert entry.info.thumbnail is not None
    return ThumbnailKey(entry.number, entry.source, entry.framing, *entry.pixels, entry.info.thumbnail)
