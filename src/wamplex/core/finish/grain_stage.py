"""Grain for the print: filtered noise that belongs to its place on the paper."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.lazy_imports import cv2
from wamplex.core.base.parallel_rows import run_parallel_blocks
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.luma import luma_plane
from wamplex.core.finish.broadcast import broadcast_plane
from wamplex.core.model.finish_values import Grain
from wamplex.core.model.picture import Pixels
from wamplex.core.upscale.networks.position_noise import position_noise
from wamplex.core.upscale.stages.stage import FollowingStage, Stage

_MM_PER_INCH = 25.4
_FWHM = 2 * math.sqrt(2 * math.log(2))
_REACH_SIGMAS = 4
_LEAST_SIGMA_PX = 0.25
# Each channel, and each size of grain, has noise of its own: from far away in the same field.
_APART = 1 << 22
# Middles of shadows and middle tones; those of middle tones and lights lie as far apart.
_THIRDS = (np.float32(1 / 6), np.float32(1 / 2))
_Plane = NDArray[np.float32]


class GrainStage(FollowingStage):
    """Adds noise of two sizes: normal distributions of the asked width at half height, and of half of it.

    Parameters
    ----------
    density_ppi : of the print
    weight : stage of one channel that says how much of it counts where, or None
    """

    def __init__(self, before: Stage, values: Grain, density_ppi: float, weight: Stage | None) -> None:
        self.width, self.height = before.width, before.height
        self._before, self._values, self._weight = before, values, weight
        width = values.size_mm * density_ppi / _MM_PER_INCH
        self._sigmas = (max(width / _FWHM, _LEAST_SIGMA_PX), max(width / 2 / _FWHM, _LEAST_SIGMA_PX))
        fine = values.roughness / 100
        self._weights = (math.sqrt(1 - fine), math.sqrt(fine))

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window, not clipped."""
        pixels = self._before.render(window, progress)
        weight = None if self._weight is None else self._weight.render(window, progress)
        if weight is not None and not weight.any():
            return pixels
        owned = pixels.flags.writeable
        result = pixels if owned else np.empty_like(pixels)
        progress.check()

        def add(rows: slice) -> None:
            if not owned:
                result[rows] = pixels[rows]
            part = Window(window.x, window.y + rows.start, window.width, rows.stop - rows.start)
            self._add(result[rows], part, None if weight is None else weight[rows])

        run_parallel_blocks(window.height, result[:1].nbytes, add)
        return result

    def _add(self, pixels: Pixels, window: Window, mask: Pixels | None) -> None:
        """Add grain to the pixels of a window, in place."""
        weight = self._tonal(luma_plane(pixels))
        weight *= np.float32(self._values.amount / 255)
        if mask is not None:
            weight *= mask[..., 0]
        colours = pixels.shape[2] - (pixels.shape[2] in (2, 4))
        if pixels.shape[2] > colours:  # nothing on what is transparent: colours are multiplied by alpha
            weight *= np.clip(pixels[..., -1], 0, 1)
        for channel in range(colours if self._values.colour else 1):
            added = self.field(window, channel)
            added *= weight
            if self._values.colour:
                pixels[..., channel] += added
            else:
                pixels[..., :colours] += broadcast_plane(added, colours)

    def field(self, window: Window, channel: int) -> _Plane:
        """Noise of mean 0 and standard deviation 1, before its tonal weights."""
        fields = [
            _filtered(window, sigma, np.float32(weight), 2 * channel + size)
            for size, (sigma, weight) in enumerate(zip(self._sigmas, self._weights, strict=True))
            if weight > 0
        ]
        for further in fields[1:]:
            fields[0] += further
        return fields[0]

    def _tonal(self, luma: _Plane) -> _Plane:
        """Weights at shadows, middle tones and lights, straight between their middles."""
        values = self._values
        shadows, midtones, lights = (np.float32(v / 100) for v in (values.shadows, values.midtones, values.lights))
        if shadows == midtones == lights:
            return np.full(luma.shape, midtones, np.float32)
        result, light = ((luma - third) * np.float32(3) for third in _THIRDS)
        for part, rise in ((result, midtones - shadows), (light, lights - midtones)):
            np.clip(part, 0, 1, out=part)
            part *= rise
        result += light
        result += shadows
        return result


def _filtered(window: Window, sigma: float, weight: np.float32, which: int) -> _Plane:
    """White noise of a field of its own, softened and brought back to a standard deviation of ``weight``."""
    kernel = _kernel(sigma)
    halo = len(kernel) // 2
    # Beyond the border of the picture noise goes on as anywhere else.
    start = _APART * (which + 1)
    wide = Window(start + window.x - halo, start + window.y - halo, window.width + 2 * halo, window.height + 2 * halo)
    soft = cv2.sepFilter2D(position_noise(wide), cv2.CV_32F, kernel * weight, kernel)
    return np.asarray(soft[halo : halo + window.height, halo : halo + window.width])


@lru_cache(maxsize=32)
def _kernel(sigma: float) -> _Plane:
    """A sampled normal distribution whose squares add up to 1, so that noise keeps its strength."""
    radius = max(1, math.ceil(_REACH_SIGMAS * sigma))
    places = np.arange(-radius, radius + 1)
    kernel = np.exp(-(places**2) / (2 * sigma**2))
    return np.asarray(kernel / np.sqrt((kernel**2).sum()), np.float32)
