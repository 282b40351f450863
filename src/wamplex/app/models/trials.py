"""The trials of one picture: which upscalers are compared, which are struck, which one is stamped."""

from __future__ import annotations

from dataclasses import dataclass, replace

from wamplex.core.upscale.interface import Upscaler
from wamplex.core.upscale.registry import find_upscaler

LETTERS = "ABCDEFGH"
MOST_IN_VIEW = 6
FIRST_TRIALS = ("bicubic", "mitchell", "lanczos", "vellum")


@dataclass(frozen=True)
class Trial:
    """One upscaler under one letter."""

    letter: str
    upscaler_key: str
    struck: bool = False

    @property
    def upscaler(self) -> Upscaler:
        """The upscaler tried."""
        return find_upscaler(self.upscaler_key)


@dataclass(frozen=True)
class Trials:
    """All trials of a picture; a value, changed by making another.

    Attributes
    ----------
    active : letter of the trial whose values the panel shows
    stamped : letter of the trial that will be delivered, None until one is chosen
    """

    rows: tuple[Trial, ...] = tuple(
        Trial(letter, key) for letter, key in zip(LETTERS, FIRST_TRIALS, strict=False)
    )
    active: str = "D"
    stamped: str | None = None

    @property
    def kept(self) -> tuple[Trial, ...]:
        """Trials still in the running."""
        return tuple(t for t in self.rows if not t.struck)

    @property
    def struck(self) -> tuple[Trial, ...]:
        """Trials dropped so far."""
        return tuple(t for t in self.rows if t.struck)

    def find(self, letter: str) -> Trial:
        """The trial with this letter."""
        return next(t for t in self.rows if t.letter == letter)

    @property
    def can_strike(self) -> bool:
        """Whether another may go: one must stay."""
        return len(self.kept) > 1

    @property
    def can_add(self) -> bool:
        """Whether another one fits into the row."""
        return len(self.kept) < MOST_IN_VIEW and len(self.rows) < len(LETTERS)

    def strike(self, letter: str) -> Trials:
        """Drop a trial; a stamp on it comes off."""
        if not self.can_strike or self.find(letter).struck:
            return self
        changed = self._with(replace(self.find(letter), struck=True))
        active = changed.kept[-1].letter if self.active == letter else self.active
        return replace(changed, active=active, stamped=None if self.stamped == letter else self.stamped)

    def put_back(self, letter: str) -> Trials:
        """Take a struck trial back in."""
        if len(self.kept) >= MOST_IN_VIEW:
            return self
        return replace(self._with(replace(self.find(letter), struck=False)), active=letter)

    def stamp(self, letter: str) -> Trials:
        """Choose the trial that is delivered; stamping it again takes the stamp off."""
        return replace(self, active=letter, stamped=None if self.stamped == letter else letter)

    def activate(self, letter: str) -> Trials:
        """Show this trial in the panel."""
        return replace(self, active=letter)

    def add(self, upscaler_key: str) -> Trials:
        """Take in one more upscaler under the next letter."""
        if not self.can_add:
            return self
        letter = LETTERS[len(self.rows)]
        return replace(self, rows=(*self.rows, Trial(letter, upscaler_key)), active=letter)

    def _with(self, changed: Trial) -> Trials:
        return replace(self, rows=tuple(changed if t.letter == changed.letter else t for t in self.rows))
