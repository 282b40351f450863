"""What a step of a history is: pixels in, pixels out, and a note of what was drawn."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Levels = NDArray[np.float32]  # (H, W, 3) in 8-bit levels, 0 to 255
Apply = Callable[[Levels, np.random.Generator], tuple[Levels, str]]
Encode = Callable[[Levels, np.random.Generator], tuple[bytes, str]]


@dataclass(frozen=True)
class Step:
    """One kind of step.

    Attributes
    ----------
    kind : its name in records and tables
    apply : draws a strength and does it; returns levels of the same size and what was drawn
    weight : how often it is drawn, against the others
    encode : draws in the same way, and returns the file; None where the step is no save as a picture file
    """

    kind: str
    apply: Apply
    weight: float = 1.0
    encode: Encode | None = None


def eight_bits(levels: Levels) -> NDArray[np.uint8]:
    """Levels rounded and clipped, (H, W, 3) uint8."""
    result: NDArray[np.uint8] = np.clip(np.rint(levels), 0, 255).astype(np.uint8)
    return np.ascontiguousarray(result)


def spread(random: np.random.Generator, low: float, high: float) -> float:
    """A number between both, even on a logarithmic scale."""
    return float(np.exp(random.uniform(np.log(low), np.log(high))))
