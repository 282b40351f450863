"""The mean of several results."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Pixels
from wamplex.core.upscale.stages.stage import FollowingStage, Stage


class MeanStage(FollowingStage):
    """What several stages of the same size have in common, pixel by pixel; one is held at a time."""

    def __init__(self, stages: Sequence[Stage]) -> None:
        self.width, self.height = stages[0].width, stages[0].height
        self._before = stages[0]
        self._stages = stages

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window."""
        weight = np.float32(1 / len(self._stages))
        mean = self._stages[0].render(window, progress) * weight
        for stage in self._stages[1:]:
            mean += stage.render(window, progress) * weight
        return mean
