"""Rotates by quarter turns, flips and crops the output of a stage."""

from __future__ import annotations

import numpy as np

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.geometry.framing import Framing
from wamplex.core.model.picture import Pixels
from wamplex.core.upscale.stages.stage import FollowingStage, Stage


class OrientedStage(FollowingStage):
    """The same pixels in another order.

    Parameters
    ----------
    framing : its turns and its flip
    crop : what is left after both, in pixels of the turned stage; None for all of it
    """

    def __init__(self, before: Stage, framing: Framing, crop: Window | None = None) -> None:
        turned = framing.turned_size(before.width, before.height)
        self._cached = Window(0, 0, *turned) if crop is None else crop
        self.width, self.height = self._cached.width, self._cached.height
        self._before = before
        self._framing = framing

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window."""
        turned_window = Window(window.x + self._cached.x, window.y + self._cached.y, window.width, window.height)
        pixels = self._before.render(self._unturned(turned_window), progress)
        rotated = np.rot90(pixels, -self._framing.turns)
        return np.ascontiguousarray(rotated[:, ::-1] if self._framing.flipped else rotated)

    def _unturned(self, window: Window) -> Window:
        """Map a window of the rotated picture back."""
        wide, high = self._before.width, self._before.height
        turned_wide, _ = self._framing.turned_size(wide, high)
        x, y, width, height = window.x, window.y, window.width, window.height
        if self._framing.flipped:
            x = turned_wide - x - width
        for _ in range(self._framing.turns):
            # A clockwise turn puts column x, row y of the sides before at column (rows - 1 - y), row x.
            x, y, width, height = y, turned_wide - x - width, height, width
            turned_wide = high if turned_wide == wide else wide
        return Window(x, y, width, height)
