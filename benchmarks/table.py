"""One line of the benchmark table."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Figure:
    """A measured figure and the bound it is held against, None where it is for information.

    Attributes
    ----------
    at_most : True when less is better
    """

    name: str
    value: float
    bound: float | None
    unit: str
    at_most: bool
    detail: str

    @property
    def met(self) -> bool:
        """Whether the bound is kept."""
        if self.bound is None:
            return True
        return self.value <= self.bound if self.at_most else self.value >= self.bound


def best_of_each(works: Sequence[Callable[[], object]], rounds: int = 4) -> list[float]:
    """Shortest time of each in seconds, taken in turns, so that a slow spell of the machine hits all."""
    return [min(times) for times in zip(*rounds_of(works, rounds), strict=True)]


def rounds_of(works: Sequence[Callable[[], object]], rounds: int) -> list[list[float]]:
    """Times in seconds, a list for each round of all works in turns, after one round to warm up."""
    taken = []
    for _ in range(rounds + 1):
        times = []
        for work in works:
            begun = time.perf_counter()
            work()
            times.append(time.perf_counter() - begun)
        taken.append(times)
    return taken[1:]


def best_of(work: Callable[[], object], times: int = 3) -> float:
    """Shortest of several runs in seconds, after one to warm up."""
    work()
    best = float("inf")
    for _ in range(times):
        begun = time.perf_counter()
        work()
        best = min(best, time.perf_counter() - begun)
    return best
