"""Nearest-neighbour sampling: every output pixel copies the source pixel it falls into."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Pixels
from wamplex.core.upscale.stages.stage import FollowingStage, Stage


class NearestStage(FollowingStage):
    """Copies pixels to ``width`` x ``height``."""

    def __init__(self, before: Stage, width: int, height: int) -> None:
        self.width = width
        self.height = height
        self._before = before

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window."""
        columns = _nearest(self._before.width, self.width, window.x, window.right)
        rows = _nearest(self._before.height, self.height, window.y, window.bottom)
        x0, y0 = int(columns[0]), int(rows[0])
        needed = Window(x0, y0, int(columns[-1]) - x0 + 1, int(rows[-1]) - y0 + 1)
        source = self._before.render(needed, progress)
        return source.take(rows - y0, axis=0).take(columns - x0, axis=1)


def _nearest(source: int, output: int, start: int, stop: int) -> NDArray[np.int64]:
    # In whole numbers, so that no rounding can move a pixel: floor((i + 1/2) * source / output).
    return (2 * np.arange(start, stop, dtype=np.int64) + 1) * source // (2 * output)
