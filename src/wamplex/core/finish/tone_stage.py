"""Tone and colour by a curve over L* and a matrix over a* and b*."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.parallel_rows import run_parallel_rows
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.lab import lab_to_srgb, srgb_to_lab32
from wamplex.core.model.finish_values import Tone
from wamplex.core.model.picture import Pixels
from wamplex.core.upscale.stages.stage import FollowingStage, Stage


class ToneStage(FollowingStage):
    """Pointwise; colours are read as sRGB, whatever their profile: the change is small and smooth.

    Parameters
    ----------
    weight : stage of one channel that says how much of it counts where, or None
    """

    def __init__(self, before: Stage, tone: Tone, weight: Stage | None) -> None:
        self.width, self.height = before.width, before.height
        self._before, self._tone, self._weight = before, tone, weight

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window, not clipped."""
        pixels = self._before.render(window, progress)
        mask = None if self._weight is None else self._weight.render(window, progress)
        if mask is not None and not mask.any():
            return pixels
        progress.check()
        result = np.clip(pixels, 0, 1)
        colours = result.shape[2] - (result.shape[2] in (2, 4))
        strength = np.float32(self._tone.strength / 100)

        def change(rows: slice) -> None:
            part = result[rows]
            colour = part[..., :colours]
            if colours < part.shape[2]:  # colours are multiplied by alpha here
                alpha = np.maximum(part[..., -1:], 1e-6)
                changed = apply_tone(np.clip(colour / alpha, 0, 1), self._tone) * alpha
            else:
                changed = apply_tone(colour, self._tone)
            weight = strength if mask is None else strength * mask[rows]
            part[..., :colours] = colour + weight * (changed - colour)

        run_parallel_rows(window.height, result[:1].nbytes, change)
        return result


def apply_tone(pixels: NDArray[np.float32], tone: Tone) -> NDArray[np.float32]:
    """Pixels (..., 1 or 3) in 0..1 with the whole change, in 0..1."""
    grey = pixels.shape[-1] == 1
    lab = srgb_to_lab32(np.repeat(pixels, 3, axis=-1) if grey else pixels)
    knots = np.linspace(0, 100, len(tone.curve))
    lab[..., 0] = np.interp(lab[..., 0], knots, tone.curve)
    if not grey:
        aa, ab, ba, bb = (np.float32(value) for value in tone.matrix)
        a, b = lab[..., 1].copy(), lab[..., 2]
        lab[..., 1] = aa * a + ab * b + np.float32(tone.shift[0])
        lab[..., 2] = ba * a + bb * b + np.float32(tone.shift[1])
    result = np.clip(lab_to_srgb(lab), 0, 1)
    return result[..., :1] if grey else result
