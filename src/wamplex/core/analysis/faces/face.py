"""A face that was found, and which of several finds is kept."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

LEAST_FACE_PX = 16


@dataclass(frozen=True)
class Face:
    """One face; all values in pixels of the picture.

    Attributes
    ----------
    x, y, width, height : the box around it
    verdict : how sure the last network is, 0 to 1
    eyes : middle of the eye on the left of the picture, then of the other: (x, y) each
    sure : whether both finders saw it
    """

    x: float
    y: float
    width: float
    height: float
    verdict: float
    eyes: tuple[tuple[float, float], tuple[float, float]]
    sure: bool = True

    @property
    def selected(self) -> bool:
        """Whether something may be done to it unasked for: others are offered only."""
        return self.sure and self.width >= LEAST_FACE_PX

    def scaled(self, by: float) -> Face:
        """The same face in a picture ``by`` times as large."""
        (ax, ay), (bx, by_) = self.eyes
        eyes = ((ax * by, ay * by), (bx * by, by_ * by))
        box = (self.x * by, self.y * by, self.width * by, self.height * by)
        return Face(*box, self.verdict, eyes, self.sure)


def suppress_overlaps(boxes: NDArray[np.float32], max_overlap: float, *, of_smaller: bool = False) -> NDArray[np.int64]:
    """Places of the boxes left when each strikes the less sure ones it overlaps by more than ``most``.

    Overlap is a share of the union, or of the smaller box.
    """
    order = np.argsort(-boxes[:, 4])
    area = (boxes[:, 2] - boxes[:, 0]) * (boxes[:, 3] - boxes[:, 1])
    remaining = []
    while len(order):
        best, rest = order[0], order[1:]
        remaining.append(best)
        low = np.maximum(boxes[best, :2], boxes[rest, :2])
        high = np.minimum(boxes[best, 2:4], boxes[rest, 2:4])
        shared = np.prod(np.maximum(high - low, 0), axis=1)
        total = np.minimum(area[best], area[rest]) if of_smaller else area[best] + area[rest] - shared
        order = rest[shared <= max_overlap * total]
    return np.array(remaining, np.int64)
