"""Corrects known blur, sharpening or motion blur of the source before a network sees it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.lazy_imports import cv2
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Pixels
from wamplex.core.model.upscale_values import Values
from wamplex.core.upscale.stages.stage import FollowingStage, Stage, render_by_tiles

# The unsharp mask that is meant by an amount; masks of other radii have an amount of this one that comes
# nearest to them.
MASK_RADIUS_PX = 0.8
# Values of the sliders to what is undone: 50 stands for a softness of 1 px, or a mask of 100 %.
PX_PER_VALUE = AMOUNT_PER_VALUE = 1 / 50
_GRID = 128  # frequencies along an axis that the filter is designed at
_REACH_PX = 8
_TILE_PX = 1024
# Share of the local range of the source that the result may lie beyond it. Thin lines that blur has made
# faint need some; a ring around an edge is cut off by it.
_BEYOND = 0.5


@dataclass(frozen=True)
class Deconvolution:
    """What is to be undone, and how far it can be trusted.

    Attributes
    ----------
    blur_px : standard deviation of a Gaussian blur beyond a clean shrink's, in pixels
    amount : of an unsharp mask of radius 0.8 px
    motion_blur_px, motion_blur_deg : length of an even movement, and its direction anticlockwise from the right
    noise, compression : conditioning of Mender, each 0 to 1
    """

    blur_px: float = 0.0
    amount: float = 0.0
    motion_blur_px: float = 0.0
    motion_blur_deg: float = 0.0
    noise: float = 0.0
    compression: float = 0.0

    @staticmethod
    def of(values: Values) -> Deconvolution | None:
        """Deconvolution for the values of a trial; None without any."""
        if values.blur == 0 and values.motion_blur_px == 0:
            return None
        return Deconvolution(
            max(values.blur, 0.0) * PX_PER_VALUE,
            max(-values.blur, 0.0) * AMOUNT_PER_VALUE,
            values.motion_blur_px,
            values.motion_blur_deg,
            values.noise / 100,
            values.compression / 100,
        )

    @property
    def radius_px(self) -> int:
        """How far the filter reaches."""
        return _REACH_PX + math.ceil(self.motion_blur_px)


@lru_cache(maxsize=64)
def deconvolution_kernel(deconvolution: Deconvolution) -> NDArray[np.float32]:
    """The filter (n, n) float32, n odd, whose weights sum to 1.

    A Wiener filter (Wiener 1949), G = H (1 + n) / (H² + n), of the response H of blur, mask and movement,
    with more restraint n the more noise and compression there is; cut to a small square under a cosine bell,
    so that windows need few pixels around them.
    """
    f = np.fft.fftfreq(_GRID)
    across, down = np.meshgrid(f, f)
    squared = 2 * np.pi**2 * (across**2 + down**2)
    response = np.exp(-squared * deconvolution.blur_px**2)
    response *= 1 + deconvolution.amount * (1 - np.exp(-squared * MASK_RADIUS_PX**2))
    turn = math.radians(deconvolution.motion_blur_deg)
    response *= np.sinc(deconvolution.motion_blur_px * (across * math.cos(turn) - down * math.sin(turn)))
    restraint = 0.003 + (2 * deconvolution.noise) ** 2 + 0.06 * deconvolution.compression**2
    inverse = response * (1 + restraint) / (response**2 + restraint)
    radius = deconvolution.radius_px
    weights = np.fft.fftshift(np.fft.ifft2(inverse).real)
    centre = slice(_GRID // 2 - radius, _GRID // 2 + radius + 1)
    bell = np.cos(np.pi / 2 * np.arange(-radius, radius + 1) / (radius + 1))
    windowed = weights[centre, centre] * np.sqrt(np.outer(bell, bell))
    result: NDArray[np.float32] = (windowed / windowed.sum()).astype(np.float32)
    return result


class DeconvolutionStage(FollowingStage):
    """The source as it was before it became soft, was sharpened or moved.

    The result stays near the range that the source has within two pixels around, so that no rings show.
    """

    def __init__(self, before: Stage, deconvolution: Deconvolution) -> None:
        self.width, self.height = before.width, before.height
        self._before = before
        self._deconvolution = deconvolution

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window, not clipped."""
        return render_by_tiles(window, _TILE_PX, lambda tile: self._tile(tile, progress))

    def _tile(self, tile: Window, progress: Progress) -> Pixels:
        progress.check()
        radius = self._deconvolution.radius_px
        around = tile.grown(radius, self.width, self.height)
        source = np.ascontiguousarray(self._before.render(around, progress))
        result = deconvolve(source, self._deconvolution)
        rows = slice(tile.y - around.y, tile.bottom - around.y)
        columns = slice(tile.x - around.x, tile.right - around.x)
        return result[rows, columns]


def deconvolve(source: Pixels, deconvolution: Deconvolution) -> Pixels:
    """The whole of (H, W, C) float32 filtered, its edge pixels going on beyond the border.

    Returns
    -------
    (H, W, C) float32; within half the local range of the source.
    """
    source = np.ascontiguousarray(source)
    filtered = cv2.filter2D(source, cv2.CV_32F, deconvolution_kernel(deconvolution), borderType=cv2.BORDER_REPLICATE)
    near = np.ones((5, 5), np.uint8)
    lowest, highest = cv2.erode(source, near), cv2.dilate(source, near)
    beyond = np.float32(_BEYOND) * (highest - lowest)
    result = np.clip(
        filtered.reshape(source.shape),
        (lowest - beyond).reshape(source.shape),
        (highest + beyond).reshape(source.shape),
    )
    return np.asarray(result, np.float32)
