"""Simulated bursts: frames of one scene from a hand that is not still. Nothing here is the program's own code."""

from __future__ import annotations

import io
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from scipy import ndimage
from skimage import data

LENS_PX = 0.35
_PHOTOGRAPHS = {"astronaut": data.astronaut, "coffee": data.coffee, "cat": data.chelsea}


@dataclass(frozen=True)
class Move:
    """Where the middle of a frame lies in the reference, and how far the frame is turned."""

    x: float = 0.0
    y: float = 0.0
    degrees: float = 0.0

    def places(self, height: int, width: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Columns and rows of the reference where the frame's pixels lie."""
        rows, columns = np.mgrid[:height, :width].astype(np.float64)
        middle_x, middle_y = (width - 1) / 2, (height - 1) / 2
        cosine, sine = np.cos(np.deg2rad(self.degrees)), np.sin(np.deg2rad(self.degrees))
        x, y = columns - middle_x, rows - middle_y
        return cosine * x - sine * y + middle_x + self.x, sine * x + cosine * y + middle_y + self.y


def hand_held(count: int, seed: int = 3) -> list[Move]:
    """The reference, and frames moved by up to three pixels and turned by up to 0.3 degrees."""
    random = np.random.default_rng(seed)
    turns = ((*random.uniform(-3, 3, 2), random.uniform(-0.3, 0.3)) for _ in range(count - 1))
    moves = [Move(float(x), float(y), degrees) for x, y, degrees in turns]
    return [Move(), *moves]


def photograph(name: str, side: int = 256) -> NDArray[np.float64]:
    """The middle of a photograph of scikit-image, (side, side, 3), 0 to 255."""
    whole = _PHOTOGRAPHS[name]()
    y, x = ((n - side) // 2 for n in whole.shape[:2])
    return whole[y : y + side, x : x + side].astype(np.float64)


def frame(
    scene: NDArray[np.float64], move: Move, factor: int = 2, noise: float = 0.0, seed: int = 0
) -> NDArray[np.uint8]:
    """What a camera sees of a scene: blurred by its lens, averaged over its pixels, with noise."""
    height, width = (n // factor for n in scene.shape[:2])
    blurred = ndimage.gaussian_filter(scene, (LENS_PX * factor, LENS_PX * factor, 0))
    box = np.convolve(np.ones(factor), np.ones(2 if factor % 2 == 0 else 1)) / factor
    box /= box.sum()
    for axis in (0, 1):
        blurred = ndimage.convolve1d(blurred, box, axis=axis, mode="nearest")
    x, y = (factor * (n + 0.5) - 0.5 for n in move.places(height, width))
    planes = [ndimage.map_coordinates(blurred[..., n], [y, x], order=3, mode="nearest") for n in range(3)]
    seen = np.stack(planes, axis=2)
    seen += np.random.default_rng(seed).normal(0, noise, seen.shape) if noise else 0.0
    return np.clip(np.rint(seen), 0, 255).astype(np.uint8)


def compressed(pixels: NDArray[np.uint8], quality: int) -> NDArray[np.uint8]:
    """The same after JPEG."""
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "jpeg", quality=quality)
    return np.asarray(Image.open(file))


def written(frames: list[NDArray[np.uint8]], folder: Path) -> list[Path]:
    """The frames as PNG files."""
    paths = [folder / f"frame-{number}.png" for number in range(len(frames))]
    for pixels, path in zip(frames, paths, strict=True):
        Image.fromarray(pixels).save(path)
    return paths


def luma_psnr(result: NDArray[np.float32], truth: NDArray[np.float64], border: int = 12) -> float:
    """PSNR of luma (ITU-R BT.601) in dB; ``result`` in 0..1, ``truth`` in levels."""
    weights = np.array([0.299, 0.587, 0.114])
    error = ((result[..., :3] * 255.0 - truth) @ weights)[border:-border, border:-border]
    return float(10 * np.log10(255**2 / np.mean(error**2)))
