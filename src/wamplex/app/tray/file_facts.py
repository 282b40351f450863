"""Records what workers find out about the files of the tray."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject

from wamplex.app.tray.change_kinds import ChangeKind
from wamplex.app.tray.entry import PictureInfo, TrayEntry, default_trials
from wamplex.app.tray.history import History
from wamplex.app.tray.initial_decisions import first_decisions
from wamplex.app.tray.thumbnails import LargeThumbnails
from wamplex.app.tray.tray_entries import TrayEntries
from wamplex.core.analysis.report.condition import Condition
from wamplex.core.analysis.report.finding import RowKey
from wamplex.core.analysis.suggestion.suggestion import suggest
from wamplex.core.base.errors import SizeError
from wamplex.core.geometry.framing import Framing
from wamplex.core.intake.compressed_thumbnail import Thumbnail
from wamplex.core.intake.probe import Probe
from wamplex.core.model.source import Source
from wamplex.core.workflow.lineage.results import LineageResult
from wamplex.core.workflow.recipe_transfer.similar_shots import ShotInfo


class FileFacts(QObject):
    """Notes what others found out. They name the file: by then, its entry may lie elsewhere or be gone."""

    def __init__(self, tray: TrayEntries, thumbnails: LargeThumbnails, history: History, parent: QObject) -> None:
        super().__init__(parent)
        self._tray, self._thumbnails, self._history = tray, thumbnails, history

    def picture(self, header: Probe, thumbnail: Thumbnail, shot_info: ShotInfo | None = None) -> None:
        """A file was looked at and is a picture."""
        entry = self._tray.entry_of(header.path)
        if entry is None:
            return
        if entry.header is not None and entry.header.source != header.source:
            # What was found out is of the old file; what was decided stays, but not what was decided before.
            entry.info = PictureInfo(outdated="changed on the disk, read again")
            entry.framed = None
            entry.usual = default_trials(entry.info)
            self._history.forget(entry.number)
        entry.info = replace(entry.info, header=header, thumbnail=thumbnail, shot_info=shot_info, error=None)
        entry.developed_as = None
        self._thumbnails.noted(entry)
        try:
            entry.framing.checked(header.width, header.height)
        except SizeError:  # the file is another than the one that was cropped
            entry.decisions = replace(entry.decisions, framing=Framing())
        if not entry.begun:
            entry.begun, entry.decisions = True, first_decisions(header)
            entry.at_first = entry.decisions
        entry.place_saved_spots()
        self._thumbnails.reframe(entry)
        self._tray.announce(entry, "file")
        self._tray.show_first(entry)

    def unusable(self, path: Path, sentence: str) -> None:
        """A file cannot be used."""
        entry = self._tray.entry_of(path)
        if entry is not None:
            self.learn(entry, "file", error=sentence)

    def notices(self, source: Source, notices: tuple[str, ...]) -> None:
        """Reading changed something the user should know."""
        entry = self._tray.entry_with(source)
        if entry is not None and notices != entry.info.notices:
            self.learn(entry, "notices", notices=notices)

    def results(self, source: Source, results: tuple[LineageResult, ...]) -> None:
        """Files were found that were made of a picture."""
        entry = self._tray.entry_with(source)
        if entry is not None and results != entry.info.results:
            self.learn(entry, "made", results=results)

    def condition(
        self, source: Source, condition: Condition, cutouts: dict[RowKey, NDArray[np.uint8]], seconds: float
    ) -> None:
        """One more measurement was made."""
        entry = self._tray.entry_with(source)
        if entry is None:
            return
        # Of a thousand pictures, those of the few that are worked on are kept.
        shown = {**entry.info.evidence_crops, **cutouts} if self._thumbnails.near(entry) else {}
        entry.info = replace(entry.info, condition=condition, evidence_crops=shown, measured_s=seconds)
        self._tray.announce_measured(entry)

    def evidence_crops(self, source: Source, cutouts: dict[RowKey, NDArray[np.uint8]]) -> None:
        """Small pictures of the condition sheet were made anew."""
        entry = self._tray.entry_with(source)
        if entry is not None and self._thumbnails.near(entry):
            entry.info = replace(entry.info, evidence_crops=cutouts)
            self._tray.announce_measured(entry)

    def measured(self, source: Source) -> None:
        """All measurements are made: what they suggest counts where the user has decided nothing yet."""
        entry = self._tray.entry_with(source)
        if entry is None or entry.condition is None:
            return
        entry.info = replace(entry.info, suggested=suggest(entry.condition))
        entry.usual = default_trials(entry.info)
        self._tray.announce(entry, "measured", "spots", "trials")

    def learn(self, entry: TrayEntry, change: ChangeKind, **changes: object) -> None:
        """Note facts of an entry, and tell that they are there."""
        entry.info = replace(entry.info, **changes)  # type: ignore[arg-type]
        self._tray.announce(entry, change)
