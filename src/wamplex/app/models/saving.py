"""Turns the tray into a project and back."""

from __future__ import annotations

from pathlib import Path

from wamplex.app.models.entry import Entry
from wamplex.app.models.tray import Tray
from wamplex.app.models.trials import Trial, Trials
from wamplex.core.measure.spots import NAMES, Spot
from wamplex.core.project import Project, SavedPicture, SavedSpot, SavedTrial
from wamplex.core.recipe import Delivery
from wamplex.core.upscale.registry import known_upscalers


def project_of(tray: Tray, delivery: Delivery, tally: dict[str, int]) -> Project:
    """Everything worth keeping; pictures that could not be used are left out."""
    kept = [entry for entry in tray.entries if entry.error is None]
    current = tray.current
    return Project(
        pictures=tuple(_saved(entry) for entry in kept),
        selected=kept.index(current) if current in kept else 0,
        delivery=delivery,
        tally=tally,
    )


def missing_pictures(project: Project) -> list[Path]:
    """Pictures of a project that are not where they were."""
    return [picture.path for picture in project.pictures if not picture.path.exists()]


def restored_trials(picture: SavedPicture) -> Trials | None:
    """The trials of a saved picture; those whose upscaler is gone are left out, None when none is left."""
    keys = {upscaler.key for upscaler in known_upscalers()}
    rows = tuple(
        Trial(t.letter, t.upscaler, t.struck, t.values, t.reason)
        for t in picture.trials
        if t.upscaler in keys
    )
    letters = [t.letter for t in rows]
    kept = [t.letter for t in rows if not t.struck]
    if not kept or len(set(letters)) != len(letters):
        return None
    active = picture.active if picture.active in kept else kept[-1]
    return Trials(rows, active, picture.stamped if picture.stamped in kept else None)


def restored_spots(picture: SavedPicture) -> tuple[Spot, ...]:
    """The spots of a saved picture."""
    return tuple(Spot(s.x, s.y, s.kind if s.kind in NAMES else "own", s.name) for s in picture.spots)


def _saved(entry: Entry) -> SavedPicture:
    trials = entry.trials
    decided = entry.decisions
    return SavedPicture(
        path=entry.path,
        factor=decided.factor,
        density_ppi=decided.density_ppi,
        trials=tuple(
            SavedTrial(
                letter=t.letter,
                upscaler=t.upscaler_key,
                struck=t.struck,
                values=t.values,
                reason=t.reason,
            )
            for t in trials.rows
        ),
        active=trials.active,
        stamped=trials.stamped,
        spots=tuple(
            SavedSpot(x=s.x, y=s.y, kind=s.kind, name=s.name) for s in entry.saved_spots or entry.spots
        ),
        framing=entry.framing,
        sheet=entry.sheet,
        seen_from_mm=entry.seen_from_mm,
    )
