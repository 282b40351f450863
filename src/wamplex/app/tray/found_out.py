"""What is found out about the files of the tray, and where it is noted."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject

from wamplex.app.tray.beginning import first_decisions
from wamplex.app.tray.entry import Entry, Facts, usual_trials
from wamplex.app.tray.what import What
from wamplex.core.errors import SizeError
from wamplex.core.geometry.framing import Framing
from wamplex.core.intake.packed_thumbnail import Thumbnail
from wamplex.core.intake.probe import Probe
from wamplex.core.measure.condition import Condition
from wamplex.core.measure.findings import RowKey
from wamplex.core.measure.suggest import suggested_by
from wamplex.core.pairs.made import Made
from wamplex.core.source import Source
from wamplex.core.travelling.alike import Taken

if TYPE_CHECKING:
    from wamplex.app.tray.tray import Tray


class FoundOut(QObject):
    """Notes what others found out. They name the file: by then, its entry may lie elsewhere or be gone."""

    def __init__(self, tray: Tray) -> None:
        super().__init__(tray)
        self._tray = tray

    def picture(self, found: Probe, thumbnail: Thumbnail, taken: Taken | None = None) -> None:
        """A file was looked at and is a picture."""
        entry = self._tray.entry_of(found.path)
        if entry is None:
            return
        if entry.found is not None and entry.found.source != found.source:
            # What was found out is of the old file; what was decided stays, but not what was decided before.
            entry.facts = Facts(outdated="changed on the disk, read anew")
            entry.framed = None
            entry.usual = usual_trials(entry.facts)
            self._tray.history.forget(entry.number)
        entry.facts = replace(entry.facts, found=found, thumbnail=thumbnail, taken=taken, error=None)
        entry.developed_as = None
        self._tray.thumbnails.noted(entry)
        try:
            entry.framing.checked(found.width, found.height)
        except SizeError:  # the file is another than the one that was cropped
            entry.decisions = replace(entry.decisions, framing=Framing())
        if not entry.begun:
            entry.begun, entry.decisions = True, first_decisions(found)
            entry.at_first = entry.decisions
        entry.place_saved_spots()
        self._tray.thumbnails.reframe(entry)
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
        if entry is not None and notices != entry.facts.notices:
            self.learn(entry, "notices", notices=notices)

    def made(self, source: Source, made: tuple[Made, ...]) -> None:
        """Files were found that were made of a picture."""
        entry = self._tray.entry_with(source)
        if entry is not None and made != entry.facts.made:
            self.learn(entry, "made", made=made)

    def condition(
        self, source: Source, condition: Condition, cutouts: dict[RowKey, NDArray[np.uint8]], seconds: float
    ) -> None:
        """One more measurement was made."""
        entry = self._tray.entry_with(source)
        if entry is None:
            return
        # Of a thousand pictures, those of the few that are worked on are kept.
        shown = {**entry.facts.cutouts, **cutouts} if self._tray.thumbnails.near(entry) else {}
        entry.facts = replace(entry.facts, condition=condition, cutouts=shown, measured_s=seconds)
        self._tray.measured.emit(entry.number)

    def cutouts(self, source: Source, cutouts: dict[RowKey, NDArray[np.uint8]]) -> None:
        """Small pictures of the condition sheet were made anew."""
        entry = self._tray.entry_with(source)
        if entry is not None and self._tray.thumbnails.near(entry):
            entry.facts = replace(entry.facts, cutouts=cutouts)
            self._tray.measured.emit(entry.number)

    def measured(self, source: Source) -> None:
        """All measurements are made: what they suggest counts where the user has decided nothing yet."""
        entry = self._tray.entry_with(source)
        if entry is None or entry.condition is None:
            return
        entry.facts = replace(entry.facts, suggested=suggested_by(entry.condition))
        entry.usual = usual_trials(entry.facts)
        self._tray.announce(entry, "measured", "spots", "trials")

    def learn(self, entry: Entry, what: What, **changes: object) -> None:
        """Note facts of an entry, and tell that they are there."""
        entry.facts = replace(entry.facts, **changes)  # type: ignore[arg-type]
        self._tray.announce(entry, what)
