"""Lays results over one another, each through its mask."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wamplex.core.base.parallel_rows import run_parallel_blocks
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.finish.broadcast import broadcast_plane
from wamplex.core.model.picture import Pixels
from wamplex.core.upscale.stages.stage import FollowingStage, Stage


@dataclass(frozen=True)
class LayerInput:
    """One layer: what it shows, where, and how strongly (0..1)."""

    source_trial: Stage
    mask: Stage
    strength: float


class LayersStage(FollowingStage):
    """``below + strength * mask * (layer - below)``, from below to above.

    Only the part of a window is made of a layer that its mask reaches, and nothing of what is hidden.
    """

    def __init__(self, base: Stage, layers: tuple[LayerInput, ...]) -> None:
        self.width, self.height = base.width, base.height
        self._before = base
        self._layers = layers

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window, not clipped."""
        shares = [layer.mask.render(window, progress) for layer in self._layers]
        covering = [
            i
            for i, (layer, weight) in enumerate(zip(self._layers, shares, strict=True))
            if layer.strength >= 1 and weight.min() >= 1
        ]
        first = covering[-1] if covering else None
        if first is None:
            result = self._before.render(window, progress)
        else:
            result = self._layers[first].source_trial.render(window, progress)
        above = 0 if first is None else first + 1
        for layer, weight in zip(self._layers[above:], shares[above:], strict=True):
            part = _reached(weight, window)
            if part is None:
                continue
            if getattr(layer.source_trial, "prefers_whole", False):
                part = window
            y, x = part.y - window.y, part.x - window.x
            place = (slice(y, y + part.height), slice(x, x + part.width))
            over = layer.source_trial.render(part, progress)
            shown = (over, weight[place], np.float32(layer.strength))
            result = _blend_layer(result, place, *shown)
        return result


def _blend_layer(
    below: Pixels, place: tuple[slice, slice], over: Pixels, weight: Pixels, strength: np.float32
) -> Pixels:
    """``over`` laid on a part of what is below, in place where that is nobody else's."""
    owned = below.flags.writeable
    result = below if owned else np.empty_like(below)
    rows_, columns = place

    def lay(rows: slice) -> None:
        if not owned:
            result[rows] = below[rows]
        first, last = max(rows.start, rows_.start), min(rows.stop, rows_.stop)
        if first < last:
            part = result[first:last, columns]
            inner = slice(first - rows_.start, last - rows_.start)
            change = over[inner] - part
            change *= broadcast_plane(weight[inner, :, 0] * strength, change.shape[2])
            part += change

    run_parallel_blocks(len(below), below[:1].nbytes, lay)
    return result


def _reached(weight: Pixels, window: Window) -> Window | None:
    """The smallest part of a window outside of which a mask is 0."""
    plane = weight[..., 0]
    rows = np.flatnonzero(plane.max(axis=1))
    if len(rows) == 0:
        return None
    columns = np.flatnonzero(plane.max(axis=0))
    top, left = int(rows[0]), int(columns[0])
    return Window(window.x + left, window.y + top, int(columns[-1]) + 1 - left, int(rows[-1]) + 1 - top)
