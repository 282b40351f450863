"""The trials of one picture: which upscalers are compared, which are struck, which one is stamped."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from wamplex.core.model.upscale_values import Values
from wamplex.core.trial.registry import find_upscaler, known_upscalers
from wamplex.core.upscale.upscalers.interface import Upscaler

LETTERS = "ABCDEFGH"
MOST_IN_VIEW = 6
FIRST_TRIALS = ("bicubic", "mitchell", "lanczos", "vellum")


@dataclass(frozen=True)
class Trial:
    """One upscaler under one letter.

    Attributes
    ----------
    values : what the user set; None stands for what is suggested for the picture
    reason : why it was added by itself, empty when it was not
    """

    letter: str
    upscaler_key: str
    struck: bool = False
    values: Values | None = None
    reason: str = ""

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

    rows: tuple[Trial, ...] = tuple(Trial(letter, key) for letter, key in zip(LETTERS, FIRST_TRIALS, strict=False))
    active: str = "D"
    stamped: str | None = None

    @staticmethod
    def of(keys: tuple[str, ...]) -> Trials:
        """The trials a new picture begins with: these upscalers, or the usual ones where none are named."""
        known_keys = {upscaler.key for upscaler in known_upscalers()}
        usable = [key for key in keys if key in known_keys][:MOST_IN_VIEW]
        if not usable:
            return Trials()
        rows = tuple(Trial(letter, key) for letter, key in zip(LETTERS, usable, strict=False))
        return Trials(rows, rows[-1].letter)

    @property
    def remaining(self) -> tuple[Trial, ...]:
        """Trials still in the running."""
        return tuple(t for t in self.rows if not t.struck)

    @property
    def struck(self) -> tuple[Trial, ...]:
        """The struck trials."""
        return tuple(t for t in self.rows if t.struck)

    def for_pixels(self) -> Trials:
        """Without those that raw files alone can have; the usual ones where none is left."""
        return self._only(tuple(t for t in self.rows if not t.upscaler.sees_sensor))

    def without(self, upscaler_key: str) -> Trials:
        """Without those of one upscaler; the usual ones where none is left."""
        return self._only(tuple(t for t in self.rows if t.upscaler_key != upscaler_key))

    def without_guests(self) -> Trials:
        """Without those that show one picture alone; the usual ones where none is left."""
        return self._only(tuple(t for t in self.rows if t.upscaler.kind != "guest"))

    def _only(self, rows: tuple[Trial, ...]) -> Trials:
        remaining = [t.letter for t in rows if not t.struck]
        if not remaining:
            return Trials()
        active = self.active if self.active in remaining else remaining[-1]
        return Trials(rows, active, self.stamped if self.stamped in remaining else None)

    def find(self, letter: str) -> Trial:
        """The trial with this letter."""
        return next(t for t in self.rows if t.letter == letter)

    @property
    def can_strike(self) -> bool:
        """Whether another may go: one must stay."""
        return len(self.remaining) > 1

    @property
    def can_add(self) -> bool:
        """Whether another one fits into the row."""
        return len(self.remaining) < MOST_IN_VIEW and len(self.rows) < len(LETTERS)

    def strike(self, letter: str) -> Trials:
        """Drop a trial; a stamp on it comes off."""
        if not self.can_strike or self.find(letter).struck:
            return self
        changed = self._with(replace(self.find(letter), struck=True))
        active = changed.remaining[-1].letter if self.active == letter else self.active
        return replace(changed, active=active, stamped=None if self.stamped == letter else self.stamped)

    def put_back(self, letter: str) -> Trials:
        """Take a struck trial back in."""
        if len(self.remaining) >= MOST_IN_VIEW:
            return self
        return replace(self._with(replace(self.find(letter), struck=False)), active=letter)

    def stamp(self, letter: str) -> Trials:
        """Choose the trial that is delivered; stamping it again takes the stamp off."""
        return replace(self, active=letter, stamped=None if self.stamped == letter else letter)

    def activate(self, letter: str) -> Trials:
        """Show this trial in the panel."""
        return replace(self, active=letter)

    def set_values(self, letter: str, values: Values | None) -> Trials:
        """Give a trial other values; None sets it back to what is suggested."""
        return self._with(replace(self.find(letter), values=values))

    def with_reason(self, letter: str, reason: str) -> Trials:
        """Say why a trial was added by itself."""
        return self._with(replace(self.find(letter), reason=reason))

    def add(self, upscaler_key: str) -> Trials:
        """Take in one more upscaler under the next letter."""
        if not self.can_add:
            return self
        letter = next(x for x in LETTERS if x not in [t.letter for t in self.rows])
        return replace(self, rows=(*self.rows, Trial(letter, upscaler_key)), active=letter)

    def tried(self, upscaler_key: str, reason: str) -> Trials:
        """See to it that an upscaler is tried, and say why; the active trial stays the active one."""
        there = next((t for t in self.rows if t.upscaler_key == upscaler_key), None)
        if there is not None:
            return self.with_reason(there.letter, reason)
        added = self.add(upscaler_key)
        return self if added is self else added.with_reason(added.active, reason).activate(self.active)

    def ordered(self, counts: Mapping[str, int]) -> Trials:
        """Sort trials by how often they were chosen before; letters stay."""
        rows = sorted(self.rows, key=lambda trial: -counts.get(trial.upscaler_key, 0))
        return replace(self, rows=tuple(rows))

    def duplicate(self, letter: str) -> Trials:
        """Try the same upscaler once more, with the same values to begin with."""
        trial = self.find(letter)
        added = self.add(trial.upscaler_key)
        return added if added is self else added.set_values(added.active, trial.values)

    def move(self, letter: str, by: int) -> Trials:
        """Move a trial among those in the running, to the left (-1) or right (+1)."""
        remaining = [t.letter for t in self.remaining]
        place = remaining.index(letter)
        other = place + by
        if not 0 <= other < len(remaining):
            return self
        rows = list(self.rows)
        one, two = rows.index(self.find(letter)), rows.index(self.find(remaining[other]))
        rows[one], rows[two] = rows[two], rows[one]
        return replace(self, rows=tuple(rows))

    def move_left(self, letter: str) -> Trials:
        """Move a trial to the left."""
        return self.move(letter, -1)

    def move_right(self, letter: str) -> Trials:
        """Move a trial to the right."""
        return self.move(letter, 1)

    def _with(self, changed: Trial) -> Trials:
        return replace(self, rows=tuple(changed if t.letter == changed.letter else t for t in self.rows))
