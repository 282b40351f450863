"""What the bench of the Trial step shows: one picture, its trials, and the view of them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from PySide6.QtGui import QImage

from wamplex.app.shared.render_requests import Overlay
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.trials import Trial
from wamplex.app.trial.blind import BlindChoice
from wamplex.core.colour.screen_view import PLAIN, ScreenView
from wamplex.core.model.recipe import Recipe

ViewName = Literal["sheet", "linked", "curtain", "blink", "difference"]
SOURCE_CELL = "source"
UNPROOFED = "unproofed"  # the active trial in the colours of the file, while a print is proofed
DISAGREEMENT = "disagreement"
OUTSIDE = "outside"


@dataclass(frozen=True)
class Scene:
    """One picture on the bench.

    Attributes
    ----------
    source_pressed : whether the source is shown in place of every trial
    trace : key of the reading drawn over the trials, None for none
    placeholder : dim picture shown until the pixels are there
    blind : whether names are hidden
    view : screen, and print that is proofed
    """

    entry: TrayEntry
    source_pressed: bool
    trace: str | None
    placeholder: QImage | None
    blind: BlindChoice
    view: ScreenView = PLAIN

    @property
    def proofed(self) -> bool:
        """Whether a print is proofed, so that the colours of the file may stand beside it."""
        return self.view.proof is not None and not self.blind.hidden

    @property
    def unproofed_text(self) -> str:
        """Label of the active trial without the proof."""
        return f"{self.entry.trials.active}  without the proof"

    @property
    def trials(self) -> tuple[Trial, ...]:
        """The trials in the running, shuffled while names are hidden."""
        return self.blind.shown(self.entry.trials.remaining)

    def mark(self, trial: Trial) -> str:
        """Its letter, or its number while names are hidden."""
        return self.blind.mark(trial)

    def name(self, trial: Trial) -> str:
        """The name of its upscaler, if it may be seen."""
        return "name hidden" if self.blind.hidden else trial.upscaler.name

    def about(self, trial: Trial) -> str:
        """Text on the trial."""
        if self.blind.hidden:
            return "Its name is hidden."
        suggested = " Suggested for this picture." if self.is_suggested(trial) else ""
        return f"{trial.upscaler.name}. {trial.upscaler.purpose}{suggested}"

    def is_suggested(self, trial: Trial) -> bool:
        """Whether it is what the measurements suggest; never while names are hidden."""
        known = not self.blind.hidden and self.entry.suggested is not None
        return known and trial.values is None and trial.upscaler_key == self.entry.suggested_upscaler

    def warning(self, trial: Trial) -> str | None:
        """Warning about the trial; empty while names are hidden."""
        return None if self.blind.hidden else self.entry.warning(trial)

    def recipe(self, letter: str) -> Recipe:
        """The recipe of a trial, or of the source enlarged without any smoothing."""
        if self.source_pressed or letter == SOURCE_CELL:
            return self.entry.recipe("nearest")
        if letter == UNPROOFED:
            letter = self.entry.trials.active
        return self.entry.trial_recipe(self.entry.trials.find(letter))

    @property
    def overlay(self) -> Overlay:
        """Overlay on the trials; none on the source."""
        if self.source_pressed:
            return Overlay()
        if self.trace == DISAGREEMENT:
            recipes = tuple(self.entry.trial_recipe(trial) for trial in compared_trials(self.entry))
            return Overlay(among=recipes) if len(recipes) > 1 else Overlay()
        if self.trace == OUTSIDE:
            return Overlay(outside=True)
        return Overlay(trace=self.trace)


def compared_trials(entry: TrayEntry) -> tuple[Trial, ...]:
    """The trials whose disagreement means something: the learned ones, or all where there are too few."""
    learned = tuple(trial for trial in entry.trials.remaining if trial.upscaler.kind == "learned")
    return learned if len(learned) > 1 else entry.trials.remaining
