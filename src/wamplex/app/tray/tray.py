"""The pictures of the project: information, decisions and history of each."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from wamplex.app.tray.change_kinds import ChangeKind
from wamplex.app.tray.decision_effects import VALUES_OF, adapt_layout, expand_folders, trial_change_text
from wamplex.app.tray.decision_transfer import DecisionTransfer, transfer_decisions
from wamplex.app.tray.decisions import Decisions
from wamplex.app.tray.entry import PictureInfo, TrayEntry, default_trials
from wamplex.app.tray.file_facts import FileFacts
from wamplex.app.tray.history import CompoundStep, Dated, History, HistoryStep, ReorderStep
from wamplex.app.tray.pictures import Pictures, reorder
from wamplex.app.tray.thumbnails import LargeThumbnails
from wamplex.app.tray.trials import Trials
from wamplex.core.analysis.content.spots import Spot, transform_spots
from wamplex.core.base.errors import SizeError
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.geometry.size import Size
from wamplex.core.model.development import Development
from wamplex.core.model.finish_values import Finish
from wamplex.core.model.frame_set import FrameSet
from wamplex.core.model.source import Source

_WHAT: dict[str, ChangeKind] = {
    "development": "development",
    "framing": "framing",
    "factor": "size",
    "density_ppi": "size",
    "sheet": "sheet",
    "viewing_distance_mm": "distance",
    "spots": "spots",
    "trials": "trials",
    "finish": "finish",
    "frames": "trials",
}


class Tray(QObject):
    """All entries, and which one is selected."""

    added = Signal(int)
    reordered = Signal()  # some were taken out, put back, or moved
    changed = Signal(int, object)  # number, frozenset of `ChangeKind`
    selected = Signal(int)  # number, -1 when nothing is left to select
    measured = Signal(int)  # a row of the condition sheet is there

    def __init__(self) -> None:
        super().__init__()
        self._pictures = Pictures()
        self._selected: int | None = None
        self._chosen: frozenset[int] = frozenset()
        self._picked = False
        self.history = History()
        self.thumbnails = LargeThumbnails(self)
        self.file_facts = FileFacts(self, self.thumbnails, self.history, self)

    @property
    def entries(self) -> list[TrayEntry]:
        """All in their order."""
        return self._pictures.entries

    def entry(self, number: int) -> TrayEntry:
        """The entry of a number, which it keeps wherever it is moved."""
        return self._pictures.entry(number)

    @property
    def current(self) -> TrayEntry | None:
        """The selected entry."""
        return None if self._selected is None else self.entry(self._selected)

    @property
    def chosen(self) -> list[TrayEntry]:
        """The chosen pictures; only the selected one unless several were chosen."""
        chosen = [entry for entry in self.entries if entry.number in self._chosen]
        return chosen or ([] if self.current is None else [self.current])

    @property
    def usable(self) -> list[TrayEntry]:
        """Entries that can be enlarged."""
        return [e for e in self.entries if e.usable]

    def add(self, paths: list[Path]) -> list[TrayEntry]:
        """Take files in, folders with all pictures in them; what is there already is selected instead."""
        fresh: list[TrayEntry] = []
        usual = default_trials(PictureInfo())  # of settings and networks: the same for all
        for path in expand_folders(paths):
            there = self._pictures.at(path.absolute())
            if there is not None:
                self.select(there.number)
                continue
            entry = self._pictures.add(path.absolute(), usual)
            fresh.append(entry)
            self.added.emit(entry.number)
        return fresh

    def choose(self, numbers: Iterable[int]) -> None:
        """Choose several pictures for the next command."""
        self._chosen = frozenset(numbers)

    def remove(self, numbers: Iterable[int]) -> None:
        """Take entries out; their files stay, and so do their decisions, should it be taken back."""
        gone = set(numbers)
        remaining = tuple(number for number in self._pictures.order if number not in gone)
        count = len(self._pictures.order) - len(remaining)
        self._rearrange(remaining, "1 picture removed" if count == 1 else f"{count} pictures removed")

    def move(self, numbers: Iterable[int], before: int | None) -> None:
        """Put entries together before another one, or at the end."""
        self._rearrange(reorder(self._pictures.order, numbers, before), "order of the pictures")

    def _rearrange(self, order: tuple[int, ...], text: str) -> None:
        if order != self._pictures.order:
            self.history.add(ReorderStep(self._pictures.order, order, text))
            self._arrange(order)

    def _arrange(self, order: tuple[int, ...]) -> None:
        before = self._pictures.order
        self._pictures.arrange(order)
        self._chosen &= frozenset(order)
        self.thumbnails.removed(set(before) - set(order))
        self.reordered.emit()
        if self._selected is not None and self._selected not in order:
            self._select_near(before.index(self._selected) if self._selected in before else 0)

    def _select_near(self, place: int) -> None:
        """The entry that came to a place is selected, else the last before it."""
        left = self.usable
        following = [entry for entry in self.entries[place:] if entry.usable]
        chosen = (following or left[-1:])[:1]
        self._selected = chosen[0].number if chosen else None
        self.selected.emit(-1 if self._selected is None else self._selected)

    def offer_trials_anew(self) -> None:
        """Update the default trials; decided trials stay."""
        for entry in self.usable:
            if entry.decisions.trials is None:
                entry.usual = default_trials(entry.info)
                self.announce(entry, "trials")

    def restore(
        self,
        number: int,
        decisions: Decisions,
        *,
        active: str | None = None,
        saved_spots: tuple[Spot, ...] | None = None,
    ) -> None:
        """Decisions of an opened project; nothing to take back.

        Parameters
        ----------
        saved_spots : spots at shares of what the framing leaves, which can be placed once the file was read
        """
        entry = self.entry(number)
        entry.decisions, entry.active, entry.saved_spots = decisions, active, saved_spots
        entry.begun = True
        entry.place_saved_spots()
        self.announce(entry, *sorted(set(_WHAT.values())))

    def point_to(self, number: int, path: Path) -> None:
        """The file of an entry lies elsewhere now."""
        entry = self.entry(number)
        self._pictures.move_file(entry, path.absolute())
        self.file_facts.learn(entry, "file", error=None)

    def select(self, number: int) -> None:
        """The user makes one picture the one that the steps work on."""
        self._picked = True
        self._show(number)

    def _show(self, number: int) -> None:
        if number != self._selected and self.entry(number) in self.entries:
            self._selected = number
            self.selected.emit(number)

    def step(self, by: int) -> None:
        """Select the picture so many further down the tray, as far as there are any that can be used."""
        usable, current = self.usable, self.current
        if current in usable:
            place = usable.index(current) + by
            self.select(usable[min(max(place, 0), len(usable) - 1)].number)

    def show_first(self, entry: TrayEntry) -> None:
        """Select the first of the new pictures, whichever was read first."""
        order, current = self._pictures.order, self._selected
        if current is None or (not self._picked and order.index(entry.number) < order.index(current)):
            self._show(entry.number)

    def entry_of(self, path: Path) -> TrayEntry | None:
        """The entry of a file; none once it lies elsewhere or is gone."""
        return self._pictures.at(path)

    def entry_with(self, source: Source) -> TrayEntry | None:
        """The entry whose file is this very one; none once it has changed."""
        entry = self.entry_of(source.path)
        return entry if entry is not None and entry.header is not None and entry.source == source else None

    # Decisions.

    def set_size(self, number: int, size: Size) -> None:
        """Another size was chosen."""
        now = self.entry(number).decisions
        self._decide(number, replace(now, factor=size.factor, density_ppi=size.density_ppi), "size")

    def set_development(self, number: int, development: Development, text: str) -> None:
        """Set the development of a raw file."""
        now = self.entry(number).decisions
        self._decide(number, replace(now, development=development), text, flows=True)

    def set_framing(self, number: int, framing: Framing) -> None:
        """Turn, straighten or crop; the factor stays, and spots stay where they are in the picture.

        Raises
        ------
        SizeError : when the crop does not fit the picture; nothing is changed then
        """
        entry = self.entry(number)
        assert entry.header is not None
        framing.checked(entry.header.width, entry.header.height)
        self._decide(number, adapt_layout(entry, framing, entry.sheet), "framing")

    def set_sheet(self, number: int, sheet: Sheet | None) -> None:
        """Lay the picture on a sheet, or take it off; "fill" crops it to the sheet's proportions.

        Raises
        ------
        SizeError : when the picture cannot be printed that large or small; nothing is changed then
        """
        entry = self.entry(number)
        self._decide(number, adapt_layout(entry, entry.framing, sheet), "sheet")

    def set_viewing_distance(self, number: int, distance_mm: float) -> None:
        """How close one may stand."""
        now = self.entry(number).decisions
        self._decide(number, replace(now, viewing_distance_mm=distance_mm), "viewing distance", flows=True)

    def set_spots(self, number: int, spots: tuple[Spot, ...]) -> None:
        """Spots were placed, moved, renamed or removed; those outside of the crop stay as they are."""
        entry = self.entry(number)
        if entry.header is None or spots == entry.spots:
            return
        size = (entry.header.width, entry.header.height)
        in_source = transform_spots(spots, entry.framing, Framing(), *size)
        hidden = tuple(
            spot
            for spot in entry.decisions.spots or ()
            if not transform_spots((spot,), Framing(), entry.framing, *size)
        )
        self._decide(number, replace(entry.decisions, spots=(*in_source, *hidden)), "spots")

    def set_trials(self, number: int, trials: Trials) -> None:
        """Trials were added, struck or stamped; to look at another decides nothing."""
        entry = self.entry(number)
        before = entry.trials
        entry.active = trials.active
        if trials == before.activate(trials.active):
            if trials != before:
                self.announce(entry, "look")
            return
        text = trial_change_text(before, trials)
        self._decide(number, replace(entry.decisions, trials=trials), text, flows=text.startswith(VALUES_OF))

    def set_frames(self, number: int, frames: FrameSet | None, trials: Trials) -> None:
        """Further frames were aligned, or separated; ``trials`` are those that follow."""
        entry = self.entry(number)
        entry.active = trials.active
        text = "separating frames" if frames is None else "joining frames"
        self._decide(number, replace(entry.decisions, frames=frames, trials=trials), text)

    def set_finish(self, number: int, finish: Finish, text: str, *, flows: bool = False) -> None:
        """Something was decided about finishing; ``flows`` when it goes on from the decision before."""
        self._decide(number, replace(self.entry(number).decisions, finish=finish), text, flows=flows)

    def carry(self, numbers: Iterable[int], transfer: DecisionTransfer) -> dict[str, tuple[str, ...]]:
        """Take decisions over for pictures, all as one step.

        Returns
        -------
        Sentences on what could not be taken over, by the names of the pictures; a picture that the size
        does not fit stays as it was.
        """
        steps, notes = [], dict[str, tuple[str, ...]]()
        for entry in map(self.entry, numbers):
            if not entry.usable:
                continue
            try:
                decided, text = transfer_decisions(entry, transfer)
            except SizeError as error:
                notes[entry.path.name] = (str(error),)
                continue
            if text:
                notes[entry.path.name] = text
            if decided != entry.decisions:
                steps.append(HistoryStep(entry.number, entry.decisions, decided, transfer.text))
        if steps:
            self.history.add(CompoundStep(tuple(steps), transfer.text))
        for step in steps:
            self._put(self.entry(step.number), step.after)
        return notes

    def with_trial_of(self, upscaler_key: str) -> str | None:
        """Name of a picture that has, or had, an upscaler among its trials: taking back may bring it."""
        for entry in self._pictures.ever:
            states = (entry.decisions, *self.history.decisions_of(entry.number))
            trials = [entry.usual, *(decided.trials for decided in states if decided.trials is not None)]
            if any(row.upscaler_key == upscaler_key for one in trials for row in one.rows):
                return entry.path.name
        return None

    @property
    def decided(self) -> bool:
        """Whether anything was decided that would be missed."""
        return not self.history.empty

    def undo(self) -> str | None:
        """Undo; what it was about, None when there is none."""
        step = self.history.undo()
        return None if step is None else self._go(step, back=True)

    def redo(self) -> str | None:
        """Decide again what was taken back last; what it is about, None when there is nothing."""
        step = self.history.redo()
        return None if step is None else self._go(step, back=False)

    def _go(self, step: Dated, *, back: bool) -> str:
        if isinstance(step, ReorderStep):
            to = step.before if back else step.after
            since = [n for n in self._pictures.order if n not in step.before and n not in step.after]
            self._arrange((*to, *since))
            return step.text
        steps = step.steps if isinstance(step, CompoundStep) else (step,)
        for one in steps:
            self._put(self.entry(one.number), one.before if back else one.after)
        if self.current is None or self.current.number not in [one.number for one in steps]:
            self.select(steps[0].number)
        return step.text

    def _decide(self, number: int, decisions: Decisions, text: str, *, flows: bool = False) -> None:
        entry = self.entry(number)
        if decisions == entry.decisions:
            return
        self.history.add(HistoryStep(number, entry.decisions, decisions, text, flows))
        self._put(entry, decisions)

    def _put(self, entry: TrayEntry, decisions: Decisions) -> None:
        before, entry.decisions = entry.decisions, decisions
        changed = [change for name, change in _WHAT.items() if getattr(before, name) != getattr(decisions, name)]
        if "framing" in changed:
            self.thumbnails.reframe(entry)
        self.announce(entry, *changed)

    def announce_measured(self, entry: TrayEntry) -> None:
        """Tell that a row of an entry's condition sheet is ready."""
        self.measured.emit(entry.number)

    def announce(self, entry: TrayEntry, *changes: ChangeKind) -> None:
        """Tell what has changed of an entry."""
        self.changed.emit(entry.number, frozenset(changes))
