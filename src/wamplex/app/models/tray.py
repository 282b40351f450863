"""The pictures taken into the project, and the decisions about each."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from wamplex.app.models.trials import Trial, Trials
from wamplex.core.errors import SizeError
from wamplex.core.framed import framed_thumbnail
from wamplex.core.geometry.framing import Framing, crop_to_ratio
from wamplex.core.geometry.sheet import Sheet, on_sheet
from wamplex.core.geometry.size import DEFAULT_DENSITY_PPI, Size
from wamplex.core.intake.probe import Probe
from wamplex.core.measure.condition import Condition
from wamplex.core.measure.findings import RowKey
from wamplex.core.measure.spots import Spot, moved_spots
from wamplex.core.measure.suggest import Suggested, suggested_by, suggested_trials
from wamplex.core.measure.trouble import likely_trouble
from wamplex.core.recipe import Delivery, Recipe
from wamplex.core.settings import load_settings
from wamplex.core.source import Source
from wamplex.core.upscale.registry import find_upscaler
from wamplex.core.upscale.values import Values

SUFFIXES = (".jpg", ".jpeg", ".png", ".tif", ".tiff", ".webp")
UNMEASURED_UPSCALER = "vellum"
DEFAULT_FACTOR = 4.0
DEFAULT_SEEN_FROM_MM = 500.0


@dataclass(frozen=True)
class Layout:
    """What changes together when a picture is framed or laid on a sheet."""

    framing: Framing
    sheet: Sheet | None
    size: Size | None
    spots: tuple[Spot, ...]
    seen_from_mm: float


@dataclass
class Entry:
    """One picture in the tray.

    Attributes
    ----------
    thumbnail : small sRGB picture (h, w, 3) uint8, None until it is read
    framed_thumbnail : the same as the framing leaves it
    error : why the file cannot be used, None when it can
    notices : what reading changed
    outdated : what is to be said when the file has changed on the disk and was read anew
    condition : what has been measured of it so far, None until the first measurement
    cutouts : small pictures, (h, w, 3) uint8, that show what rows of the condition sheet are about
    suggested : the upscaler and the values that its measurements suggest, None until everything is measured
    measured_s : how long measuring took
    spots : the places trials are judged at, none until they are found
    framing : how it is turned, straightened and cropped
    sheet : what it is printed on; None leaves the print as large as factor and density make it
    seen_from_mm : how close one may stand
    wanted_factor, wanted_density_ppi : what the size becomes once the picture has been read
    """

    number: int
    path: Path
    found: Probe | None = None
    thumbnail: NDArray[np.uint8] | None = None
    framed_thumbnail: NDArray[np.uint8] | None = None
    error: str | None = None
    notices: tuple[str, ...] = ()
    outdated: str = ""
    size: Size | None = None
    trials: Trials = field(default_factory=lambda: Trials.of(load_settings().first_trials))
    condition: Condition | None = None
    cutouts: dict[RowKey, NDArray[np.uint8]] = field(default_factory=dict)
    suggested: Suggested | None = None
    measured_s: float = 0.0
    spots: tuple[Spot, ...] = ()
    framing: Framing = field(default_factory=Framing)
    sheet: Sheet | None = None
    seen_from_mm: float = DEFAULT_SEEN_FROM_MM
    wanted_factor: float = DEFAULT_FACTOR
    wanted_density_ppi: float = DEFAULT_DENSITY_PPI

    @property
    def usable(self) -> bool:
        """Whether the picture has been read and can be enlarged."""
        return self.found is not None and self.error is None and self.size is not None

    @property
    def source(self) -> Source:
        """The file that was read."""
        assert self.found is not None
        return self.found.source

    @property
    def layout(self) -> Layout:
        """Framing, sheet, size, spots and viewing distance, which are decided together."""
        return Layout(self.framing, self.sheet, self.size, self.spots, self.seen_from_mm)

    @layout.setter
    def layout(self, layout: Layout) -> None:
        changed = layout.framing != self.framing
        self.framing, self.sheet, self.size = layout.framing, layout.sheet, layout.size
        self.spots, self.seen_from_mm = layout.spots, layout.seen_from_mm
        if changed:
            self.reframe_thumbnail()

    def reframe_thumbnail(self) -> None:
        """The framing is another, or the thumbnail has come."""
        if self.thumbnail is not None and self.found is not None:
            place = (self.framing, self.found.width, self.found.height)
            self.framed_thumbnail = framed_thumbnail(self.thumbnail, *place)

    def suggested_values(self, upscaler_key: str) -> Values:
        """What the picture's own measurements suggest; until they are there, the usual values."""
        if self.suggested is None:
            return Values()
        return self.suggested.values_for(find_upscaler(upscaler_key).values)

    def trouble(self, trial: Trial) -> str | None:
        """What will probably go wrong with a trial, in a sentence; None until the picture is measured."""
        if self.suggested is None or self.condition is None:
            return None
        upscaler = trial.upscaler
        values = trial.values or self.suggested_values(upscaler.key)
        return likely_trouble(upscaler.key, upscaler.kind, values, self.suggested, self.condition.medium.kind)

    @property
    def suggested_upscaler(self) -> str:
        """Key of the upscaler that the measurements suggest; a faithful one until they are there."""
        return UNMEASURED_UPSCALER if self.suggested is None else self.suggested.upscaler

    def trial_recipe(self, trial: Trial) -> Recipe:
        """The recipe of a trial."""
        return self.recipe(trial.upscaler_key, trial.values)

    def delivered_recipe(self, delivery: Delivery) -> Recipe:
        """The recipe of the stamped trial, or of the suggested upscaler while none is stamped."""
        if self.trials.stamped is None:
            made = self.recipe(self.suggested_upscaler, delivery=delivery)
        else:
            trial = self.trials.find(self.trials.stamped)
            made = self.recipe(trial.upscaler_key, trial.values, delivery)
        return made.having(sheet=self.sheet)

    def recipe(
        self, upscaler_key: str, values: Values | None = None, delivery: Delivery | None = None
    ) -> Recipe:
        """The recipe for this picture with one upscaler; suggested values where none are given."""
        assert self.size is not None
        return Recipe(
            upscaler=upscaler_key,
            factor=self.size.factor,
            values=values or self.suggested_values(upscaler_key),
            framing=self.framing,
            density_ppi=self.size.density_ppi,
            delivery=delivery or Delivery(),
        )

    @property
    def delivered_upscaler(self) -> str:
        """Key of the stamped upscaler, or of the suggested one while none is stamped."""
        if self.trials.stamped is None:
            return self.suggested_upscaler
        return self.trials.find(self.trials.stamped).upscaler_key


@dataclass(frozen=True)
class _Decision:
    """What a field of an entry was before it was decided otherwise."""

    number: int
    what: str
    before: object


class Tray(QObject):
    """All entries, and which one is selected."""

    added = Signal(int)
    changed = Signal(int)
    selected = Signal(int)
    measured = Signal(int)  # a row of the condition sheet is there

    def __init__(self) -> None:
        super().__init__()
        self.entries: list[Entry] = []
        self._selected: int | None = None
        self._picked = False
        self._past: list[_Decision] = []
        self._future: list[_Decision] = []

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

    def point_to(self, number: int, path: Path) -> None:
        """The file of an entry lies elsewhere now."""
        entry = self.entries[number]
        entry.path, entry.error = path.absolute(), None
        self.changed.emit(number)

    def select(self, number: int) -> None:
        """The user makes one picture the one that the steps work on."""
        self._picked = True
        self._show(number)

    def _show(self, number: int) -> None:
        if number != self._selected and 0 <= number < len(self.entries):
            self._selected = number
            self.selected.emit(number)

    # What is found out about a file names the file: by then, its entry may lie elsewhere or be gone.

    def set_found(self, found: Probe, thumbnail: NDArray[np.uint8]) -> None:
        """A file was looked at and is a picture."""
        entry = self._entry_of(found.path)
        if entry is None:
            return
        if entry.found is not None and entry.found.source != found.source:
            self._forget_facts(entry)
        entry.found, entry.thumbnail, entry.error = found, thumbnail, None
        try:
            entry.framing.checked(found.width, found.height)
        except SizeError:  # the file is another than the one that was cropped
            entry.framing = Framing()
        kept = entry.framing.size(found.width, found.height)
        entry.size = Size(*kept, entry.wanted_factor, entry.wanted_density_ppi)
        entry.reframe_thumbnail()
        self.changed.emit(entry.number)
        if self._selected is None or (not self._picked and entry.number < self._selected):
            # The first of the new pictures, though a later one may have been read sooner.
            self._show(entry.number)

    def _forget_facts(self, entry: Entry) -> None:
        """The file has changed: what was found out is of the old one, what was decided stays."""
        entry.outdated = "changed on the disk, read anew"
        entry.condition, entry.suggested, entry.notices = None, None, ()
        entry.cutouts.clear()
        if entry.size is not None:
            entry.wanted_factor, entry.wanted_density_ppi = entry.size.factor, entry.size.density_ppi
        # What was decided before may not fit the new dimensions.
        self._past = [decision for decision in self._past if decision.number != entry.number]
        self._future = [decision for decision in self._future if decision.number != entry.number]

    def set_error(self, path: Path, sentence: str) -> None:
        """A file cannot be used."""
        entry = self._entry_of(path)
        if entry is not None:
            entry.error = sentence
            self.changed.emit(entry.number)

    def set_notices(self, source: Source, notices: tuple[str, ...]) -> None:
        """Reading changed something the user should know."""
        entry = self._entry_with(source)
        if entry is not None and notices != entry.notices:
            entry.notices = notices
            self.changed.emit(entry.number)

    def _entry_of(self, path: Path) -> Entry | None:
        return next((entry for entry in self.entries if entry.path == path), None)

    def _entry_with(self, source: Source) -> Entry | None:
        """The entry whose file is this very one; none once it has changed."""
        entry = self._entry_of(source.path)
        return entry if entry is not None and entry.found is not None and entry.source == source else None

    def set_size(self, number: int, size: Size) -> None:
        """Another size was chosen."""
        self._decide(number, "size", size)

    def set_framing(self, number: int, framing: Framing) -> None:
        """Turn, straighten or crop; the factor stays, and spots stay where they are in the picture.

        Raises
        ------
        SizeError : when the crop does not fit the picture; nothing is changed then
        """
        entry = self.entries[number]
        assert entry.found is not None
        width, height = entry.found.width, entry.found.height
        framing.checked(width, height)
        self._decide(number, "layout", self._laid_out(entry, framing, entry.sheet))

    def set_sheet(self, number: int, sheet: Sheet | None) -> None:
        """Lay the picture on a sheet, or take it off; "fill" crops it to the sheet's proportions.

        Raises
        ------
        SizeError : when the picture cannot be printed that large or small; nothing is changed then
        """
        entry = self.entries[number]
        self._decide(number, "layout", self._laid_out(entry, entry.framing, sheet))

    def set_seen_from(self, number: int, distance_mm: float) -> None:
        """How close one may stand to the print."""
        self._decide(number, "seen_from_mm", distance_mm)

    def _laid_out(self, entry: Entry, framing: Framing, sheet: Sheet | None) -> Layout:
        assert entry.found is not None
        assert entry.size is not None
        width, height = entry.found.width, entry.found.height
        if sheet is not None and sheet.place == "fill":
            framing = crop_to_ratio(framing, width, height, sheet.ratio)
        kept = framing.size(width, height)
        size = replace(entry.size, source_width=kept[0], source_height=kept[1])
        if sheet is not None:
            size = on_sheet(size, sheet)
        spots = moved_spots(entry.spots, entry.framing, framing, width, height)
        return Layout(framing, sheet, size, spots, entry.seen_from_mm)

    def set_condition(
        self, source: Source, condition: Condition, cutouts: dict[RowKey, NDArray[np.uint8]], seconds: float
    ) -> None:
        """One more measurement was made."""
        entry = self._entry_with(source)
        if entry is None:
            return
        entry.condition, entry.measured_s = condition, seconds
        entry.cutouts.update(cutouts)
        self.measured.emit(entry.number)

    def set_measured(self, source: Source) -> None:
        """All measurements are made: what they suggest counts where the user has decided nothing yet."""
        entry = self._entry_with(source)
        if entry is None or entry.condition is None:
            return
        entry.suggested = suggested_by(entry.condition)
        if not entry.spots and entry.found is not None:
            place = (entry.framing, entry.found.width, entry.found.height)
            entry.spots = moved_spots(entry.condition.spots, Framing(), *place)
        if entry.trials == Trials.of(load_settings().first_trials):
            for key, reason in suggested_trials(entry.condition):
                entry.trials = entry.trials.tried(key, reason)
        self.changed.emit(entry.number)

    def set_spots(self, number: int, spots: tuple[Spot, ...]) -> None:
        """Spots were placed, moved, renamed or removed."""
        self._decide(number, "spots", spots)

    def set_trials(self, number: int, trials: Trials) -> None:
        """Trials were added, struck or stamped."""
        before = self.entries[number].trials
        # Looking at another trial decides nothing.
        self._decide(number, "trials", trials, remember=trials != before.activate(trials.active))

    @property
    def decided(self) -> bool:
        """Whether anything was decided that would be missed."""
        return bool(self._past)

    def undo(self) -> bool:
        """Take the last decision back; False when there is none."""
        return self._step(self._past, self._future)

    def redo(self) -> bool:
        """Decide again what was taken back last; False when there is nothing."""
        return self._step(self._future, self._past)

    def _decide(self, number: int, what: str, value: object, *, remember: bool = True) -> None:
        entry = self.entries[number]
        before = getattr(entry, what)
        if value == before:
            return
        if remember:
            self._past.append(_Decision(number, what, before))
            self._future.clear()
        setattr(entry, what, value)
        self.changed.emit(number)

    def _step(self, source: list[_Decision], target: list[_Decision]) -> bool:
        if not source:
            return False
        last = source.pop()
        entry = self.entries[last.number]
        target.append(_Decision(last.number, last.what, getattr(entry, last.what)))
        setattr(entry, last.what, last.before)
        self.changed.emit(last.number)
        self.select(last.number)
        return True


def _expanded(paths: list[Path]) -> list[Path]:
    out: list[Path] = []
    for path in paths:
        if path.is_dir():
            out += sorted(p for p in path.iterdir() if p.suffix.lower() in SUFFIXES)
        else:
            out.append(path)
    return out
