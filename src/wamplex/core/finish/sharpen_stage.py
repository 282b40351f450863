"""Sharpening for the print: unsharp masking of the luma, with a floor and a limit on halos."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.lazy_imports import cv2
from wamplex.core.base.parallel_rows import run_parallel_blocks
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.luma import luma_plane
from wamplex.core.finish.broadcast import broadcast_plane
from wamplex.core.model.finish_values import Sharpen
from wamplex.core.model.picture import Pixels
from wamplex.core.upscale.stages.stage import FollowingStage, Stage

_MM_PER_INCH = 25.4
_REACH_SIGMAS = 4
# What an eye with usual sight tells apart: a minute of arc (common practice; ISO 8596 calls it 1.0).
_MINUTE = math.radians(1 / 60)
_Plane = NDArray[np.float32]


def suggested_radius_mm(density_ppi: float, distance_mm: float) -> tuple[float, str]:
    """The sharpening radius for a print at a viewing distance, and the reason in words.

    Half of what the eye just tells apart at that distance, and never less than half a pixel, below which
    nothing is sharpened (common practice).
    """
    resolved_mm = distance_mm * math.tan(_MINUTE)
    pixel = _MM_PER_INCH / density_ppi
    radius = max(resolved_mm / 2, pixel / 2)
    if resolved_mm >= pixel:
        reason = f"from {distance_mm / 10:.0f} cm the eye resolves {resolved_mm:.2f} mm; half of that"
    else:
        reason = f"half a pixel of {pixel:.2f} mm: from {distance_mm / 10:.0f} cm the eye resolves more"
    return round(radius, 3), reason


class SharpenStage(FollowingStage):
    """Unsharp mask on luma; the same amount is added to all channels, so that no colour shifts.

    Parameters
    ----------
    density_ppi : of the print, which tells how many pixels the radius has
    weight : stage of one channel that says how much of it counts where, or None
    """

    def __init__(self, before: Stage, sharpen: Sharpen, density_ppi: float, weight: Stage | None) -> None:
        self.width, self.height = before.width, before.height
        self._before, self._values, self._weight = before, sharpen, weight
        self._sigma = sharpen.radius_mm * density_ppi / _MM_PER_INCH
        self._around = max(1, math.ceil(2 * self._sigma))
        self._halo = max(math.ceil(_REACH_SIGMAS * self._sigma), self._around)

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window, not clipped."""
        weight = None if self._weight is None else self._weight.render(window, progress)
        if weight is not None and not weight.any():
            return self._before.render(window, progress)
        needed = window.grown(self._halo, self.width, self.height)
        pixels = self._before.render(needed, progress)
        progress.check()
        y, x = window.y - needed.y, window.x - needed.x
        before = pixels[y : y + window.height, x : x + window.width]
        owned = pixels.flags.writeable
        result = before if owned else np.empty_like(before)
        colours = result.shape[2] - (result.shape[2] in (2, 4))
        # Of all that is needed, since pixels change in place while their neighbours are still looked at.
        luma = np.empty(pixels.shape[:2], np.float32)

        def sharpen(rows: slice) -> None:
            """Some rows of the window, by themselves with what lies around them."""
            first = rows.start + y
            top, bottom = max(0, first - self._halo), first + rows.stop - rows.start + self._halo
            inside = slice(first - top, first - top + rows.stop - rows.start)
            added = self._added(luma[top:bottom])[inside, x : x + window.width]
            if weight is not None:
                added *= weight[rows, :, 0]
            np.add(before[rows, :, :colours], broadcast_plane(added, colours), out=result[rows, :, :colours])
            if not owned:
                result[rows, :, colours:] = before[rows, :, colours:]

        def weigh(rows: slice) -> None:
            luma[rows] = luma_plane(pixels[rows])

        run_parallel_blocks(len(pixels), pixels[:1].nbytes, weigh)
        run_parallel_blocks(window.height, result[:1].nbytes, sharpen)
        return result

    def _added(self, luma: _Plane) -> _Plane:
        values = self._values
        side = 2 * math.ceil(_REACH_SIGMAS * self._sigma) + 1
        soft = cv2.GaussianBlur(luma, (side, side), self._sigma, borderType=cv2.BORDER_REPLICATE)
        away: _Plane = luma - soft
        floor = np.float32(values.floor / 255)
        if floor > 0:
            away -= np.clip(away, -floor, floor)
        away *= np.float32(values.amount / 100)
        away += luma
        limit = np.float32(values.halo_limit / 255)
        around = np.ones((2 * self._around + 1, 2 * self._around + 1), np.uint8)
        minimum = cv2.erode(luma, around, borderType=cv2.BORDER_REPLICATE) - limit
        maximum = cv2.dilate(luma, around, borderType=cv2.BORDER_REPLICATE) + limit
        np.clip(away, minimum, maximum, out=away)
        away -= luma
        return away
