"""Steps of lenses, hands and programs that blur or sharpen."""

from __future__ import annotations

import cv2
import numpy as np

from training.unlisted.step import Levels, Step, spread


def _filtered(levels: Levels, kernel: np.ndarray) -> Levels:
    kernel = (kernel / kernel.sum()).astype(np.float32)
    return np.asarray(cv2.filter2D(levels, cv2.CV_32F, kernel, borderType=cv2.BORDER_REPLICATE))


def _blurred(levels: Levels, px: float) -> Levels:
    return np.asarray(cv2.GaussianBlur(levels, (0, 0), px, borderType=cv2.BORDER_REPLICATE))


def _round_blur(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    px = spread(random, 0.25, 2.0)
    return _blurred(levels, px), f"{px:.2f} px"


def _disk_blur(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    radius = spread(random, 0.6, 2.5)
    return _filtered(levels, disk(radius)), f"radius {radius:.2f} px"


def disk(radius: float) -> np.ndarray:
    """An even disk, its rim smoothed over one pixel."""
    side = int(np.ceil(radius + 1))
    y, x = np.mgrid[-side : side + 1, -side : side + 1]
    return np.clip(radius + 0.5 - np.hypot(x, y), 0, 1)


def _oblong_blur(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    long, share, turn = spread(random, 0.5, 2.2), random.uniform(0.2, 0.7), random.uniform(0, np.pi)
    side = int(np.ceil(3 * long))
    y, x = np.mgrid[-side : side + 1, -side : side + 1]
    along, across = x * np.cos(turn) + y * np.sin(turn), y * np.cos(turn) - x * np.sin(turn)
    kernel = np.exp(-(along**2) / (2 * long**2) - across**2 / (2 * (share * long) ** 2))
    return _filtered(levels, kernel), f"{long:.2f} x {share * long:.2f} px at {np.degrees(turn):.0f} degrees"


def motion_kernel(length: float, turn: float) -> np.ndarray:
    """An even movement of so many pixels along a line, drawn eight times as fine and shrunk."""
    fine, side = 8, int(np.ceil(length / 2)) + 1
    canvas = np.zeros((fine * (2 * side + 1),) * 2, np.float32)
    centre = fine * (side + 0.5)
    t = np.linspace(-length / 2, length / 2, int(16 * length) + 2)
    x, y = (np.clip(centre + fine * t * f(turn), 0, len(canvas) - 1).astype(int) for f in (np.cos, np.sin))
    np.add.at(canvas, (y, x), 1.0)
    return canvas.reshape(2 * side + 1, fine, 2 * side + 1, fine).sum((1, 3))


def _motion_blur(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    length, turn = spread(random, 1.0, 6.0), random.uniform(0, np.pi)
    return _filtered(levels, motion_kernel(length, turn)), f"{length:.1f} px at {np.degrees(turn):.0f} degrees"


def _corner_blur(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    px = spread(random, 0.5, 2.5)
    height, width = levels.shape[:2]
    y, x = np.mgrid[-1 : 1 : height * 1j, -1 : 1 : width * 1j]
    weight = np.clip((x**2 + y**2) / 2, 0, 1)[..., None].astype(np.float32)
    return levels + weight * (_blurred(levels, px) - levels), f"up to {px:.2f} px in the corners"


def _thin_focus(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    px, turn, at = spread(random, 0.8, 4.0), random.uniform(0, 2 * np.pi), random.uniform(-0.6, 0.6)
    height, width = levels.shape[:2]
    y, x = np.mgrid[-1 : 1 : height * 1j, -1 : 1 : width * 1j]
    away = np.abs(x * np.cos(turn) + y * np.sin(turn) - at)
    weight = np.clip(1.5 * away - 0.3, 0, 1)[..., None].astype(np.float32)
    return levels + weight * (_blurred(levels, px) - levels), f"up to {px:.2f} px outside a band"


def _sharpened(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    radius, amount = spread(random, 0.4, 3.0), spread(random, 0.15, 2.0)
    return levels + np.float32(amount) * (levels - _blurred(levels, radius)), f"{100 * amount:.0f} %, {radius:.1f} px"


def _local_contrast(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    radius, amount = spread(random, 8, 30), random.uniform(0.1, 0.4)
    return levels + np.float32(amount) * (levels - _blurred(levels, radius)), f"{100 * amount:.0f} %, {radius:.0f} px"


OPTICS = (
    Step("round blur", _round_blur, 2.0),
    Step("disk blur", _disk_blur),
    Step("oblong blur", _oblong_blur),
    Step("motion", _motion_blur),
    Step("corner blur", _corner_blur, 0.5),
    Step("thin focus", _thin_focus, 0.5),
    Step("sharpened", _sharpened, 2.0),
    Step("local contrast", _local_contrast, 0.5),
)
