"""The pictures taken into the project, and the decisions about each."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from wamplex.app.models.trials import Trials
from wamplex.core.geometry.size import Size
from wamplex.core.intake.probe import Probe
from wamplex.core.recipe import Delivery, Recipe

SUFFIXES = (".jpg", ".jpeg", ".png", ".tif", ".tiff", ".webp")
UNSTAMPED_UPSCALER = "vellum"
DEFAULT_FACTOR = 4.0


@dataclass
class Entry:
    """One picture in the tray.

    Attributes
    ----------
    thumbnail : small sRGB picture (h, w, 3) uint8, None until it is read
    error : why the file cannot be used, None when it can
    notices : what reading changed
    """

    number: int
    path: Path
    found: Probe | None = None
    thumbnail: NDArray[np.uint8] | None = None
    error: str | None = None
    notices: tuple[str, ...] = ()
    size: Size | None = None
    trials: Trials = field(default_factory=Trials)

    @property
    def usable(self) -> bool:
        """Whether the picture has been read and can be enlarged."""
        return self.found is not None and self.error is None and self.size is not None

    def recipe(self, upscaler_key: str, delivery: Delivery | None = None) -> Recipe:
        """The recipe for this picture with one upscaler."""
        assert self.size is not None
        return Recipe(
            upscaler=upscaler_key,
            factor=self.size.factor,
            density_ppi=self.size.density_ppi,
            delivery=delivery or Delivery(),
        )

    @property
    def delivered_upscaler(self) -> str:
        """Key of the stamped upscaler, or of the one used while none is stamped."""
        if self.trials.stamped is None:
            return UNSTAMPED_UPSCALER
        return self.trials.find(self.trials.stamped).upscaler_key


class Tray(QObject):
    """All entries, and which one is selected."""

    added = Signal(int)
    changed = Signal(int)
    selected = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.entries: list[Entry] = []
        self._selected: int | None = None
        self._picked = False

    @property
    def current(self) -> Entry | None:
        """The selected entry."""
        return None if self._selected is None else self.entries[self._selected]

    @property
    def usable(self) -> list[Entry]:
        """Entries that can be enlarged."""
        return [e for e in self.entries if e.usable]

    def add(self, paths: list[Path]) -> list[Entry]:
        """Take files in, folders with all pictures in them; what is there already is selected instead."""
        known = {e.path: e for e in self.entries}
        fresh: list[Entry] = []
        for path in _expanded(paths):
            path = path.absolute()
            if path in known:
                self.select(known[path].number)
                continue
            entry = Entry(len(self.entries), path)
            known[path] = entry
            self.entries.append(entry)
            fresh.append(entry)
            self.added.emit(entry.number)
        return fresh

    def select(self, number: int) -> None:
        """The user makes one picture the one that the steps work on."""
        self._picked = True
        self._show(number)

    def _show(self, number: int) -> None:
        if number != self._selected and 0 <= number < len(self.entries):
            self._selected = number
            self.selected.emit(number)

    def set_found(self, number: int, found: Probe, thumbnail: NDArray[np.uint8]) -> None:
        """A file was looked at and is a picture."""
        entry = self.entries[number]
        entry.found, entry.thumbnail = found, thumbnail
        entry.size = Size(found.width, found.height, DEFAULT_FACTOR)
        self.changed.emit(number)
        if self._selected is None or (not self._picked and number < self._selected):
            # The first of the new pictures, though a later one may have been read sooner.
            self._show(number)

    def set_error(self, number: int, sentence: str) -> None:
        """A file cannot be used."""
        self.entries[number].error = sentence
        self.changed.emit(number)

    def set_notices(self, number: int, notices: tuple[str, ...]) -> None:
        """Reading changed something the user should know."""
        if notices != self.entries[number].notices:
            self.entries[number].notices = notices
            self.changed.emit(number)

    def set_size(self, number: int, size: Size) -> None:
        """Another size was chosen."""
        if size != self.entries[number].size:
            self.entries[number].size = size
            self.changed.emit(number)

    def set_trials(self, number: int, trials: Trials) -> None:
        """Trials were added, struck or stamped."""
        if trials != self.entries[number].trials:
            self.entries[number].trials = trials
            self.changed.emit(number)


def _expanded(paths: list[Path]) -> list[Path]:
    out: list[Path] = []
    for path in paths:
        if path.is_dir():
            out += sorted(p for p in path.iterdir() if p.suffix.lower() in SUFFIXES)
        else:
            out.append(path)
    return out
