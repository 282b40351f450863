"""What a reading is: one artifact of one result, as a number and a map."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from wamplex.core.readings.full_reference import DoublePlane
from wamplex.core.readings.reading_input import ReadingInput

Better = Literal["less", "more"]


@dataclass(frozen=True)
class ReadingResult:
    """A number and where it comes from.

    Attributes
    ----------
    value : in the reading's unit
    trace : (H, W) over the result, 0 where there is nothing; larger is more of it
    """

    value: float
    trace: DoublePlane


@dataclass(frozen=True)
class Reading:
    """One kind of artifact.

    Attributes
    ----------
    better : whether less or more of it is better
    look_for : what the eye should look for
    formula : published source, or "own definition"
    full_trace : value of the trace that is drawn at full strength
    visible_from : smallest visible difference between trials
    """

    key: str
    name: str
    unit: str
    better: Better
    look_for: str
    formula: str
    full_trace: float
    visible_from: float
    measure: Callable[[ReadingInput], ReadingResult]
