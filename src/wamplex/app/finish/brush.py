"""The brush: its settings, and the stroke that is being drawn."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from wamplex.core.finish.strokes import Stroke

LEAST_PX, LARGEST_PX = 1.0, 2000.0
# Places closer together than this part of the radius make no visible difference.
_STEP = 0.3


@dataclass(frozen=True)
class Brush:
    """How strokes are drawn.

    Attributes
    ----------
    size : diameter in source pixels
    hardness, opacity : percent
    adds : paints in; else it takes away
    """

    size: float = 40.0
    hardness: float = 40.0
    opacity: float = 100.0
    adds: bool = True

    def resized(self, by: float) -> Brush:
        """The same, larger or smaller by a factor."""
        return replace(self, size=min(max(self.size * by, LEAST_PX), LARGEST_PX))

    def stroke(self, points: list[tuple[float, float, float]]) -> Stroke:
        """A stroke through places of the source: (x, y, pressure)."""
        return Stroke(tuple(points), self.size / 2, self.hardness / 100, self.opacity / 100, self.adds)

    def far_enough(self, last: tuple[float, float, float], place: tuple[float, float, float]) -> bool:
        """Whether a place adds anything to a stroke that ends at another."""
        moved = math.hypot(place[0] - last[0], place[1] - last[1])
        return moved >= max(0.2, _STEP * self.size / 2)
