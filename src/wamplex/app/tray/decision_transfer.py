"""Copies the decisions of one picture, or of a recipe, to others."""

from __future__ import annotations

from dataclasses import dataclass, replace

from wamplex.app.tray.decisions import Decisions
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.trials import Trials
from wamplex.core.finish.initial_masks import face_ellipses
from wamplex.core.frames.concert import CONCERT
from wamplex.core.model.development import Development
from wamplex.core.model.finish_values import Finish
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.workflow.recipe_transfer.transfer import Part, transfer_recipe, trial_obstacle


@dataclass(frozen=True)
class DecisionTransfer:
    """What is taken over.

    Attributes
    ----------
    recipe : where it is from
    parts : which of it
    remeasured : whether values are measured for each picture, instead of those of the recipe
    text : what it is called, such as a recipe's name
    trials : all trials of the picture that it is from; None where there is the recipe alone
    """

    recipe: Recipe
    parts: frozenset[Part]
    remeasured: bool
    text: str
    trials: Trials | None = None


def transfer_decisions(entry: TrayEntry, transfer: DecisionTransfer) -> tuple[Decisions, tuple[str, ...]]:
    """Decisions for a picture after a transfer, and a sentence on each thing that does not fit.

    Raises
    ------
    SizeError : when the size does not fit the picture
    """
    assert entry.header is not None
    before = entry.delivered_recipe()
    recipe, notes = transfer_recipe(transfer.recipe, before, transfer.parts, entry.header)
    decided = replace(
        entry.decisions,
        development=recipe.development or Development() if entry.raw else entry.decisions.development,
        framing=recipe.framing,
        factor=recipe.factor,
        density_ppi=recipe.density_ppi,
        sheet=recipe.sheet,
    )
    if "finish" in transfer.parts:
        finish, more = _add_detected_faces(entry, recipe.finish)
        decided, notes = replace(decided, finish=finish), (*notes, *more)
    trial_fits = transfer.trials is not None or trial_obstacle(transfer.recipe.base, entry.header) is None
    if "trial" in transfer.parts and trial_fits:
        decided = replace(decided, trials=_trials(entry, transfer))
    return decided, notes


def _trials(entry: TrayEntry, transfer: DecisionTransfer) -> Trials:
    if transfer.trials is None:
        return _stamped(entry, transfer.recipe.base, anew=transfer.remeasured)
    trials = transfer.trials.without_guests()
    trials = trials if entry.decisions.frames is not None else trials.without(CONCERT.key)
    trials = trials if entry.has_mosaic else trials.for_pixels()
    rows = (
        replace(trial, values=None if transfer.remeasured else _adopt_values(entry, trial.upscaler_key, trial.values))
        for trial in trials.rows
    )
    return replace(trials, rows=tuple(rows))


def _adopt_values(entry: TrayEntry, upscaler_key: str, values: Values | None) -> Values | None:
    """Values of another picture; the places that are spared are this one's own."""
    if values is None:
        return None
    return values.replace(protected=entry.suggested_values(upscaler_key).protected)


def _stamped(entry: TrayEntry, base: TrialSpec, *, anew: bool) -> Trials:
    """The picture's trials with one more, if it is not there yet, and the stamp on it."""
    trials = entry.trials
    there = [trial.letter for trial in trials.rows if trial.upscaler_key == base.upscaler]
    if not there and not trials.can_add:
        trials = trials.strike(trials.remaining[0].letter)
    if not there:
        added = trials.add(base.upscaler)
        trials, there = added, [added.active]
    letter = there[0]
    if trials.find(letter).struck:
        trials = trials.put_back(letter)
    values = None if anew else _adopt_values(entry, base.upscaler, base.values)
    trials = trials.set_values(letter, values)
    return trials if trials.stamped == letter else trials.stamp(letter)


def _add_detected_faces(entry: TrayEntry, finish: Finish) -> tuple[Finish, tuple[str, ...]]:
    if finish.faces is None or finish.faces.ellipses:
        return finish, ()
    assert entry.header is not None
    if entry.condition is None or "faces" not in entry.condition.measured:
        return finish.replace(faces=None), ("its faces are not detected yet, so no face is treated",)
    faces = face_ellipses(entry.condition.faces, entry.header.width, entry.header.height)
    return finish.replace(faces=finish.faces.replace(ellipses=faces) if faces else None), ()
