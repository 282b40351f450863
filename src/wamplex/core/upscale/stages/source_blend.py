"""Blends the plainly interpolated source into a result."""

from __future__ import annotations

import numpy as np

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Pixels
from wamplex.core.upscale.stages.stage import FollowingStage, Stage


class SourceBlendStage(FollowingStage):
    """``(1 - share) * result + share * plain``."""

    def __init__(self, result: Stage, plain: Stage, weight: float) -> None:
        self.width, self.height = result.width, result.height
        self._before = result
        self._plain = plain
        self._weight = np.float32(weight)

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window, not clipped."""
        result = self._before.render(window, progress)
        return result + self._weight * (self._plain.render(window, progress) - result)
