"""Decisions as steps that can be undone."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, replace

from wamplex.app.tray.decisions import Decisions

# A slider on its way is one step as long as it rests no longer than this.
_TOGETHER_S = 1.5


@dataclass(frozen=True)
class HistoryStep:
    """One decision.

    Attributes
    ----------
    number : of the picture
    text : what was decided, such as "crop"
    flows : whether it comes from something that is drawn along, and may go on from the last one
    """

    number: int
    before: Decisions
    after: Decisions
    text: str
    flows: bool = False


@dataclass(frozen=True)
class ReorderStep:
    """Pictures were taken out of the tray, or moved in it.

    Attributes
    ----------
    before, after : numbers of those that are there, in their order
    """

    before: tuple[int, ...]
    after: tuple[int, ...]
    text: str


@dataclass(frozen=True)
class CompoundStep:
    """The same was decided about several pictures."""

    steps: tuple[HistoryStep, ...]
    text: str


Dated = HistoryStep | ReorderStep | CompoundStep


class History:
    """Steps taken, and steps taken back.

    Parameters
    ----------
    clock : gives seconds
    """

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._past: list[Dated] = []
        self._future: list[Dated] = []
        self._last_s = float("-inf")

    @property
    def empty(self) -> bool:
        """Whether there is nothing to take back."""
        return not self._past

    def add(self, step: Dated) -> None:
        """A decision was made; with the last one it may be a single step."""
        self._future.clear()
        last = self._past[-1] if self._past else None
        if isinstance(step, HistoryStep) and isinstance(last, HistoryStep) and self._goes_on(last, step):
            self._past.pop()
            step = replace(step, before=last.before)
        self._last_s = self._clock()
        if isinstance(step, CompoundStep) or step.before != step.after:
            self._past.append(step)

    def undo(self) -> Dated | None:
        """The step to take back, None when there is none."""
        self._last_s = float("-inf")
        if not self._past:
            return None
        self._future.append(self._past.pop())
        return self._future[-1]

    def redo(self) -> Dated | None:
        """The step to take again, None when there is none."""
        self._last_s = float("-inf")
        if not self._future:
            return None
        self._past.append(self._future.pop())
        return self._past[-1]

    def decisions_of(self, number: int) -> list[Decisions]:
        """All that steps could bring back of a picture."""
        decisions = []
        for step in (*self._past, *self._future):
            steps = step.steps if isinstance(step, CompoundStep) else (step,) if isinstance(step, HistoryStep) else ()
            decisions += [state for one in steps if one.number == number for state in (one.before, one.after)]
        return decisions

    def forget(self, number: int) -> None:
        """Steps of a picture no longer count: it has become another."""
        self._past = [left for step in self._past if (left := _drop_picture(step, number)) is not None]
        self._future = [left for step in self._future if (left := _drop_picture(step, number)) is not None]

    def _goes_on(self, last: HistoryStep, step: HistoryStep) -> bool:
        same = last.number == step.number and last.text == step.text and last.after == step.before
        return same and step.flows and self._clock() - self._last_s < _TOGETHER_S


def _drop_picture(step: Dated, number: int) -> Dated | None:
    """The rest of a step without one picture."""
    if isinstance(step, CompoundStep):
        rest = tuple(one for one in step.steps if one.number != number)
        return replace(step, steps=rest) if rest else None
    return None if isinstance(step, HistoryStep) and step.number == number else step
