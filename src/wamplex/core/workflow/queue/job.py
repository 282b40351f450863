"""One file to be made, and its state."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from pathlib import Path

from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source


class State(Enum):
    """State of a job."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


ENDED = (State.DONE, State.FAILED, State.CANCELLED)


@dataclass(frozen=True)
class Job:
    """A job as the journal has it.

    Attributes
    ----------
    number : its own, in the journal
    planned : name it will have if it is free
    text : how far it is, or why it failed
    result : the file, once it is written
    """

    number: int
    source: Source
    recipe: Recipe
    delivery: Delivery
    planned: Path
    expected_bytes: int
    state: State = State.WAITING
    text: str = "waiting"
    result: Path | None = None
    file_bytes: int = 0
