"""The brush: its settings, and the stroke that is being drawn."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from wamplex.core.finish.strokes import Stroke

LEAST_PX, LARGEST_PX = 1.0, 2000.0
# Places closer together than this part of the radius make no visible difference.
_STEP = 0.3
_TOLERANCE = 0.01  # of the size, by which a simplified stroke may stray
_Place = tuple[float, float, float]


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
        """A stroke through places of the source: (x, y, pressure), without those that change nothing."""
        simplified = _needed(points, max(0.1, _TOLERANCE * self.size))
        return Stroke(tuple(simplified), self.size / 2, self.hardness / 100, self.opacity / 100, self.adds)

    def far_enough(self, last: tuple[float, float, float], place: tuple[float, float, float]) -> bool:
        """Whether a place adds anything to a stroke that ends at another."""
        distance = math.hypot(place[0] - last[0], place[1] - last[1])
        return distance >= max(0.2, _STEP * self.size / 2)


def _needed(points: list[_Place], tolerance: float) -> list[_Place]:
    """The places without which a line would stray (Ramer 1972; Douglas and Peucker 1973)."""
    indices = {0, len(points) - 1}
    spans = [(0, len(points) - 1)]
    while spans:
        first, last = spans.pop()
        (x0, y0, p0), (x1, y1, p1) = points[first], points[last]
        length = math.hypot(x1 - x0, y1 - y0)
        worst, at = 0.0, -1
        for i in range(first + 1, last):
            x, y, pressure = points[i]
            away = abs((x1 - x0) * (y - y0) - (y1 - y0) * (x - x0)) / length if length else math.hypot(x - x0, y - y0)
            along = (i - first) / (last - first)
            uneven = abs(pressure - (p0 + along * (p1 - p0))) * 20 * tolerance
            if max(away, uneven) > worst:
                worst, at = max(away, uneven), i
        if worst > tolerance:
            indices.add(at)
            spans += [(first, at), (at, last)]
    return [points[i] for i in sorted(indices)]
