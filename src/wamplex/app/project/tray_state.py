"""Converts the tray into a project and back."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path
from typing import NamedTuple

from wamplex.app.tray.decisions import Decisions
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.tray import Tray
from wamplex.app.tray.trials import Trial, Trials
from wamplex.core.analysis.content.spots import NAMES, Spot
from wamplex.core.analysis.suggestion.suggestions import Suggestions
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.guests.guest import PREFIX
from wamplex.core.intake.probe import Probe
from wamplex.core.model.development import Development
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.trial.registry import is_known
from wamplex.core.workflow.projects.project import Project, SavedPicture, SavedSpot, SavedTrial


class ProjectState(NamedTuple):
    """The tray as it is.

    Attributes
    ----------
    project : everything worth keeping; pictures that could not be used are left out
    decided : what counts of it when it is compared: not what is merely looked at, or follows measurements
    """

    project: Project
    decided: tuple[object, ...]


@dataclass(frozen=True, slots=True)
class _Known:
    """What was made of a picture, and of what."""

    path: Path
    decisions: Decisions
    usual: Trials
    active: str | None
    saved_spots: tuple[Spot, ...] | None
    suggested: Suggestions | None
    header: Probe | None
    saved: SavedPicture
    compared: SavedPicture

    def still_of(self, entry: TrayEntry) -> bool:
        """Whether all of it is the very same; asked of a thousand pictures every few seconds."""
        info = entry.info
        return (
            self.decisions is entry.decisions
            and self.usual is entry.usual
            and self.active is entry.active
            and self.saved_spots is entry.saved_spots
            and self.suggested is info.suggested
            and self.header is info.header
            and self.path is entry.path
        )


class Saving:
    """Turns the tray into a project; what has not changed of a picture is not made again.

    With a thousand pictures, making all of them takes half a second, in which the window would stand still.
    """

    def __init__(self) -> None:
        self._known: dict[int, _Known] = {}
        self._like: tuple[SavedPicture, SavedPicture] | None = None

    def work(self, tray: Tray, delivery: Delivery, blind_choices: dict[str, int]) -> ProjectState:
        """The work to be saved now."""
        entries = [entry for entry in tray.entries if entry.info.error is None]
        both = [self._saved(entry) for entry in entries]
        current = tray.current
        # Each part was checked when it was made; checking a thousand once more takes as long as making them.
        project = Project.model_construct(
            pictures=tuple(saved for saved, _ in both),
            selected=entries.index(current) if current in entries else 0,
            delivery=delivery,
            blind_choices=dict(blind_choices),
        )
        return ProjectState(project, (tuple(compared for _, compared in both), delivery, dict(blind_choices)))

    def prepare(self, entry: TrayEntry) -> None:
        """Make what is kept of a picture now."""
        if entry.error is None:
            self._saved(entry)

    def _saved(self, entry: TrayEntry) -> tuple[SavedPicture, SavedPicture]:
        cached = self._known.get(entry.number)
        if cached is None or not cached.still_of(entry):
            saved, compared = self._unmeasured(entry) or _both(entry)
            if cached is not None and cached.compared == compared:
                compared = cached.compared  # the very same compares at once
            observed = (entry.usual, entry.active, entry.saved_spots, entry.suggested, entry.header)
            cached = self._known[entry.number] = _Known(entry.path, entry.decisions, *observed, saved, compared)
        return cached.saved, cached.compared

    def _unmeasured(self, entry: TrayEntry) -> tuple[SavedPicture, SavedPicture] | None:
        """Of a picture that was not even looked at yet: as of any other such picture, but for the path."""
        if entry.header is not None or entry.saved_spots is not None or entry.decisions != Decisions():
            return None
        if self._like is None:
            self._like = _both(entry)
        saved, compared = self._like
        return saved.replace(path=entry.path), compared.replace(path=entry.path)


def entry_decisions(saved: SavedPicture) -> SavedPicture:
    """A saved picture without where its project lies, and without what nobody decided."""
    return saved.replace(relative_path=None, active="A", recipe=saved.recipe.replace(base=TrialSpec()))


def missing_pictures(project: Project) -> list[Path]:
    """Pictures of a project that are not where they were."""
    return [picture.path for picture in project.pictures if not os.path.exists(picture.path)]


def missing_guests(project: Project) -> list[Path]:
    """Pictures of a project with a guest among their trials that is not on this computer."""
    return [
        picture.path
        for picture in project.pictures
        if any(t.upscaler.startswith(PREFIX) and not is_known(t.upscaler) for t in picture.trials or ())
    ]


def restore(tray: Tray, number: int, picture: SavedPicture) -> None:
    """Give an entry of the tray the decisions of a saved picture."""
    spots = None if picture.spots is None else tuple(_spot(saved) for saved in picture.spots)
    framed = picture.spots_in == "framed"
    decisions = Decisions(
        development=picture.recipe.development or Development(),
        framing=picture.recipe.framing,
        factor=picture.recipe.factor,
        density_ppi=picture.recipe.density_ppi,
        sheet=picture.recipe.sheet,
        viewing_distance_mm=picture.viewing_distance_mm,
        spots=None if framed else spots,
        trials=restored_trials(picture),
        finish=picture.recipe.finish,
        frames=picture.recipe.frames,
    )
    tray.restore(number, decisions, active=picture.active, saved_spots=spots if framed else None)


def restored_trials(picture: SavedPicture) -> Trials | None:
    """The trials of a saved picture; those whose upscaler is gone are left out, None when none is left."""
    rows = tuple(
        Trial(t.letter, t.upscaler, t.struck, t.values, t.reason) for t in picture.trials or () if is_known(t.upscaler)
    )
    letters = [t.letter for t in rows]
    remaining = [t.letter for t in rows if not t.struck]
    if not remaining or len(set(letters)) != len(letters):
        return None
    active = picture.active if picture.active in remaining else remaining[-1]
    return Trials(rows, active, picture.stamped if picture.stamped in remaining else None)


def _spot(saved: SavedSpot) -> Spot:
    return Spot(saved.x, saved.y, saved.kind if saved.kind in NAMES else "own", saved.name)


def _both(entry: TrayEntry) -> tuple[SavedPicture, SavedPicture]:
    saved = _saved(entry)
    return saved, entry_decisions(saved)


def _saved(entry: TrayEntry) -> SavedPicture:
    decided, framed = entry.decisions, entry.saved_spots is not None
    spots, trials = entry.saved_spots if framed else decided.spots, decided.trials
    return SavedPicture(
        path=entry.path,
        recipe=entry.delivered_recipe(),
        trials=None if trials is None else tuple(_saved_trial(trial) for trial in trials.rows),
        active=entry.trials.active,
        stamped=None if trials is None else trials.stamped,
        spots=None if spots is None else tuple(SavedSpot(x=s.x, y=s.y, kind=s.kind, name=s.name) for s in spots),
        spots_in="framed" if framed else "source",
        viewing_distance_mm=decided.viewing_distance_mm,
    )


def _saved_trial(trial: Trial) -> SavedTrial:
    return SavedTrial(
        letter=trial.letter,
        upscaler=trial.upscaler_key,
        struck=trial.struck,
        values=trial.values,
        reason=trial.reason,
    )
