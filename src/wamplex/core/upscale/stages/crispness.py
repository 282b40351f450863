"""Crispness: narrows the edges of an enlargement, so that they are as crisp as those of a picture of that size.

A learned upscaler gives the mean of all pictures that could have been, and a mean is soft.
"""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from wamplex.core.base.lazy_imports import cv2
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.luma import WEIGHTS
from wamplex.core.model.picture import Pixels
from wamplex.core.upscale.stages.shock_filter import Sharpening, luma_change
from wamplex.core.upscale.stages.stage import FollowingStage, Stage

_TILE_PX = 256  # small enough for the processor's cache
_THREADS = min(4, os.cpu_count() or 1)


class CrispnessStage(FollowingStage):
    """An enlargement whose edges are narrower; the same change in every colour, none of transparency.

    Parameters
    ----------
    before : the enlargement
    value : 0 (as it is) to 100
    factor : of the enlargement
    """

    def __init__(self, before: Stage, value: float, factor: float) -> None:
        self.width, self.height = before.width, before.height
        self._before = before
        self._sharpening = Sharpening(value, factor)

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window, not clipped."""
        around = window.grown(self._sharpening.halo, self.width, self.height)
        pixels = self._before.render(around, progress)
        result = np.empty((window.height, window.width, pixels.shape[2]), np.float32)

        def work(tile: Window) -> None:
            progress.check()
            near = tile.grown(self._sharpening.halo, self.width, self.height)
            made = crisper(_part(pixels, near, around), self._sharpening)
            _part(result, tile, window)[...] = _part(made, tile, near)

        with ThreadPoolExecutor(_THREADS) as pool:
            list(pool.map(work, window.tiles(_TILE_PX, _TILE_PX)))
        return result


def _part(pixels: Pixels, part: Window, whole: Window) -> Pixels:
    rows = slice(part.y - whole.y, part.bottom - whole.y)
    return pixels[rows, part.x - whole.x : part.right - whole.x]


def crisper(pixels: Pixels, sharpening: Sharpening) -> Pixels:
    """All of some pixels with narrower edges.

    Parameters
    ----------
    pixels : (H, W, C) float32 in 0..1, colour premultiplied by alpha, which comes last
    sharpening : how much

    Returns
    -------
    (H, W, C) float32, not clipped.
    """
    planes = list(cv2.split(np.ascontiguousarray(pixels)))
    colours = len(planes) - (len(planes) % 2 == 0)
    # In place of `luma_plane`, whose product would start threads of its own in each of ours.
    weights = WEIGHTS if colours == 3 else np.ones(1, np.float32)
    luma = cv2.transform(cv2.merge(planes[:colours]), weights[np.newaxis] * np.float32(255))
    change = luma_change(luma, sharpening)
    change *= np.float32(1 / 255)
    if colours < len(planes):  # colour without its alpha would leave a fringe
        change *= np.clip(cv2.erode(planes[-1], np.ones((3, 3), np.uint8)), 0, 1)
    for plane in planes[:colours]:
        np.add(plane, change, out=plane)
    return np.asarray(cv2.merge(planes)).reshape(pixels.shape)
