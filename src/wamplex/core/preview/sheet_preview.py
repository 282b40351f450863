"""A small picture of the whole file: the framed picture on its sheet."""

from __future__ import annotations

from functools import partial

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.lazy_imports import cv2
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.geometry.sheet import Ring, Sheet, file_pixels, rings
from wamplex.core.geometry.size import Size
from wamplex.core.model.picture import Pixels
from wamplex.core.render.border_fill import BorderStage
from wamplex.core.upscale.stages.stage import ArrayStage, Stage


def sheet_preview(framed: NDArray[np.uint8], size: Size, sheet: Sheet | None, side: int) -> NDArray[np.uint8]:
    """Preview of the file, at most ``side`` pixels a side: (h, w, 3) uint8.

    Parameters
    ----------
    framed : a thumbnail (h, w, 3) of what the framing leaves
    size : size of the result
    sheet : sheet that the picture is printed on; None without one
    side : longest side, in pixels

    Returns
    -------
    sRGB on white.
    """
    scale = min(1.0, side / max(file_pixels(size, sheet)))
    inner = (max(1, round(size.width_px * scale)), max(1, round(size.height_px * scale)))
    pixels = cv2.resize(framed, inner, interpolation=cv2.INTER_AREA).astype(np.float32) / np.float32(255)
    stage: Stage = ArrayStage(pixels, Window(0, 0, *inner), *inner)
    for ring in rings(size, sheet):
        left, top, right, bottom = (round(n * scale) for n in (ring.left, ring.top, ring.right, ring.bottom))
        small = Ring(left, top, right, bottom, ring.filling)
        around = BorderStage(stage, small, partial(_smaller, pixels))
        stage = around
        pixels = around.render(Window(0, 0, around.width, around.height), Progress())
    result: NDArray[np.uint8] = np.rint(np.clip(pixels, 0, 1) * np.float32(255)).astype(np.uint8)
    return result


def _smaller(pixels: Pixels, side: int) -> Pixels:
    scale = min(1.0, side / max(pixels.shape[:2]))
    size = (max(1, round(pixels.shape[1] * scale)), max(1, round(pixels.shape[0] * scale)))
    result: Pixels = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    return result
