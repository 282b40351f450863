"""Back-projection: corrects a result until shrinking it gives the source back."""

from __future__ import annotations

import math

import numpy as np

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Pixels
from wamplex.core.upscale.stages.kernels import CATMULL_ROM
from wamplex.core.upscale.stages.resample import ResampleStage
from wamplex.core.upscale.stages.stage import ArrayStage, FollowingStage, Stage

ROUNDS = 4
# Further than two kernels reach: one that shrinks, one that enlarges the difference.
_REACH_SOURCE_PX = 5


class BackProjectionStage(FollowingStage):
    """Iterative back-projection (Irani and Peleg 1991), a fixed number of rounds.

    Each round shrinks the result with the antialiased bicubic kernel, and adds what the source has
    more, enlarged. Differences up to ``levels`` are let be, so that corrections end there. The number of
    rounds does not depend on the pixels, hence any window equals that window of the whole.

    Parameters
    ----------
    before : the enlargement
    source : what it was made from
    levels : difference in 8-bit levels that is let be
    """

    def __init__(self, before: Stage, source: Stage, levels: float) -> None:
        self.width, self.height = before.width, before.height
        self._before = before
        self._source = source
        self._levels = levels
        factor = max(self.width / source.width, self.height / source.height)
        self._halo = math.ceil(_REACH_SOURCE_PX * factor)

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window, not clipped."""
        regions = [window]
        for _ in range(ROUNDS):
            regions.insert(0, regions[0].grown(self._halo, self.width, self.height))
        array_stage = ArrayStage(self._before.render(regions[0], progress), regions[0], self.width, self.height)
        for region in regions[1:]:
            shrunk = ResampleStage(array_stage, self._source.width, self._source.height, CATMULL_ROM)
            missing = _Missing(self._source, shrunk, self._levels / 255)
            correction = ResampleStage(missing, self.width, self.height, CATMULL_ROM)
            pixels = array_stage.render(region, progress) + correction.render(region, progress)
            array_stage = ArrayStage(pixels, region, self.width, self.height)
        return array_stage.render(window, progress)


class _Missing(FollowingStage):
    """What the source has more than the shrunk result, beyond what is let be."""

    def __init__(self, source: Stage, shrunk: Stage, let_be: float) -> None:
        self.width, self.height = source.width, source.height
        self._before = source
        self._shrunk = shrunk
        self._let_be = np.float32(let_be)

    def render(self, window: Window, progress: Progress) -> Pixels:
        difference = self._before.render(window, progress) - self._shrunk.render(window, progress)
        beyond: Pixels = difference - np.clip(difference, -self._let_be, self._let_be)
        return beyond
