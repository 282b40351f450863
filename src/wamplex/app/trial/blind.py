"""A blind choice: names and values hidden, order shuffled, until one trial is left or stamped."""

from __future__ import annotations

import random
from dataclasses import dataclass

from wamplex.app.tray.trials import Trial, Trials


@dataclass(frozen=True)
class BlindChoice:
    """Whether names are hidden, and in which order the trials stand then.

    Attributes
    ----------
    order : letters, shuffled; empty while names are shown
    by_pairs : whether only two trials are shown, of which the worse is struck
    """

    order: tuple[str, ...] = ()
    by_pairs: bool = False

    @classmethod
    def among(cls, trials: Trials) -> BlindChoice:
        """Hide the names of these."""
        remaining = [trial.letter for trial in trials.remaining]
        random.shuffle(remaining)
        # Those struck before come last, in case one is put back.
        return cls((*remaining, *(trial.letter for trial in trials.struck)))

    @property
    def hidden(self) -> bool:
        """Whether names are hidden."""
        return bool(self.order)

    def shown(self, remaining: tuple[Trial, ...]) -> tuple[Trial, ...]:
        """The visible trials that are not struck, in order."""
        if not self.hidden:
            return remaining
        shuffled = tuple(sorted(remaining, key=lambda trial: self.order.index(trial.letter)))
        return shuffled[:2] if self.by_pairs else shuffled

    def mark(self, trial: Trial) -> str:
        """Its letter, or its number while names are hidden."""
        return str(self.order.index(trial.letter) + 1) if self.hidden else trial.letter

    def decided(self, trials: Trials) -> Trial | None:
        """The trial that was chosen, once one is stamped or the only one left."""
        letter = trials.stamped or (trials.remaining[0].letter if len(trials.remaining) == 1 else None)
        return trials.find(letter) if self.hidden and letter is not None else None
