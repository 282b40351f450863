"""A damaged picture, and the plain damages that pictures are measured under."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
from PIL import Image

# A noise plane of 1 stands for a standard deviation of 50 levels; a compression plane of 1 for quality 0.
NOISE_PLANE_LEVELS = 50.0


@dataclass(frozen=True)
class Damaged:
    """A damaged picture, uint8 (H, W, 3), and what the network is told about it.

    Attributes
    ----------
    noise_plane, blocks_plane : 0..1
    softness : -1 (sharpened) to 1 (soft), a hundredth of the value of the same name
    webp : whether it was compressed as WebP or AVIF
    """

    pixels: np.ndarray
    noise_plane: float = 0.0
    blocks_plane: float = 0.0
    blur: float = 0.0
    webp: bool = False


def jpeg(pixels: np.ndarray, quality: int, subsampling: int = 2) -> np.ndarray:
    """The picture after saving as JPEG and opening again."""
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "JPEG", quality=quality, subsampling=subsampling)
    return np.asarray(Image.open(file))


def gaussian_noise(pixels: np.ndarray, sigma: float, random: np.random.Generator) -> np.ndarray:
    """White noise of ``sigma`` 8-bit levels in each channel, rounded and clipped as a camera would."""
    noisy = pixels + random.normal(0, sigma, pixels.shape)
    return np.clip(np.rint(noisy), 0, 255).astype(np.uint8)


def coarse_noise(shape: tuple[int, ...], sigma: float, random: np.random.Generator) -> np.ndarray:
    """Noise of about ``sigma`` levels whose grains are two pixels wide, each channel by itself."""
    small = random.normal(0, sigma, (shape[0] // 2 + 1, shape[1] // 2 + 1, shape[2]))
    full = small.repeat(2, axis=0).repeat(2, axis=1)[: shape[0], : shape[1]]
    return 0.25 * (full + np.roll(full, 1, 0) + np.roll(full, 1, 1) + np.roll(full, (1, 1), (0, 1)))
