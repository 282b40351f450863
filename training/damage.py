"""What happens to pictures before they reach the user: noise, compression, softness, earlier enlargement."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
from PIL import Image, ImageFilter

# A noise plane of 1 stands for a standard deviation of 50 levels; a compression plane of 1 for quality 0.
NOISE_PLANE_LEVELS = 50.0
_SUBSAMPLINGS = (0, 2, 2)  # Pillow's numbers for 4:4:4 and 4:2:0, which is the more usual


@dataclass(frozen=True)
class Damaged:
    """A damaged picture, uint8 (H, W, 3), and what the network is told about it, planes in 0..1."""

    pixels: np.ndarray
    noise_plane: float = 0.0
    blocks_plane: float = 0.0


def jpeg(pixels: np.ndarray, quality: int, subsampling: int = 2) -> np.ndarray:
    """The picture after saving as JPEG and opening again."""
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "JPEG", quality=quality, subsampling=subsampling)
    return np.asarray(Image.open(file))


def gaussian_noise(pixels: np.ndarray, sigma: float, random: np.random.Generator) -> np.ndarray:
    """White noise of ``sigma`` 8-bit levels in each channel, rounded and clipped as a camera would."""
    noisy = pixels + random.normal(0, sigma, pixels.shape)
    return np.clip(np.rint(noisy), 0, 255).astype(np.uint8)


def damage_photograph(pixels: np.ndarray, random: np.random.Generator) -> Damaged:
    """One of the common misfortunes of a photograph, or none."""
    if random.random() < 0.10:
        pixels = _softened(pixels, random)
    draw = random.random()
    if draw < 0.03:
        return Damaged(pixels)
    noise = blocks = 0.0
    if draw > 0.74:
        sigma = float(random.uniform(1, 40) if random.random() < 0.5 else random.uniform(1, 20))
        pixels = _noisy(pixels, sigma, random)
        noise = sigma / NOISE_PLANE_LEVELS
    if draw < 0.74 or draw > 0.88:
        quality = int(random.integers(20, 96))
        if random.random() < 0.25:
            earlier = int(random.integers(max(quality - 5, 20), 96))
            pixels = _shifted_jpeg(pixels, earlier, random)
        pixels = jpeg(pixels, quality, int(random.choice(_SUBSAMPLINGS)))
        blocks = (100 - quality) / 100
    return Damaged(pixels, _told(noise, random), _told(blocks, random))


def damage_drawing(pixels: np.ndarray, random: np.random.Generator) -> Damaged:
    """Compression at some share; the network finds out by itself."""
    if random.random() < 0.15:
        return Damaged(jpeg(pixels, int(random.integers(40, 96)), int(random.choice(_SUBSAMPLINGS))))
    return Damaged(pixels)


def _told(plane: float, random: np.random.Generator) -> float:
    """Measured values are never quite right, so the told ones are a little wrong too."""
    return plane * float(random.uniform(0.9, 1.1))


def _softened(pixels: np.ndarray, random: np.random.Generator) -> np.ndarray:
    image = Image.fromarray(pixels)
    if random.random() < 0.6:
        return np.asarray(image.filter(ImageFilter.GaussianBlur(float(random.uniform(0.3, 1.0)))))
    scale = float(random.uniform(1.2, 1.8))
    size = (round(image.width / scale), round(image.height / scale))
    kernel = Image.Resampling.BICUBIC if random.random() < 0.6 else Image.Resampling.BILINEAR
    return np.asarray(image.resize(size, Image.Resampling.LANCZOS).resize(image.size, kernel))


def _shifted_jpeg(pixels: np.ndarray, quality: int, random: np.random.Generator) -> np.ndarray:
    """A first save whose 8-pixel grid lies anywhere, as after a crop."""
    down, right = random.integers(0, 8, 2)
    padded = np.pad(pixels, ((down, 0), (right, 0), (0, 0)), mode="edge")
    return jpeg(padded, quality, int(random.choice(_SUBSAMPLINGS)))[down:, right:]


def _noisy(pixels: np.ndarray, sigma: float, random: np.random.Generator) -> np.ndarray:
    """White noise, noise that grows with the light (photon counts), or coarse grain in the colour."""
    draw = random.random()
    if draw < 0.45:
        return gaussian_noise(pixels, sigma, random)
    if draw < 0.75:
        spread = sigma * np.sqrt(pixels / 128 + 0.05)
        noisy = pixels + spread * random.normal(0, 1, pixels.shape)
    else:
        luma = random.normal(0, 0.6 * sigma, pixels.shape[:2])[..., np.newaxis]
        noisy = pixels + luma + _coarse(pixels.shape, sigma, random)
    return np.clip(np.rint(noisy), 0, 255).astype(np.uint8)


def _coarse(shape: tuple[int, ...], sigma: float, random: np.random.Generator) -> np.ndarray:
    """Noise of about ``sigma`` levels whose grains are two pixels wide, each channel by itself."""
    small = random.normal(0, sigma, (shape[0] // 2 + 1, shape[1] // 2 + 1, shape[2]))
    full = small.repeat(2, axis=0).repeat(2, axis=1)[: shape[0], : shape[1]]
    return 0.25 * (full + np.roll(full, 1, 0) + np.roll(full, 1, 1) + np.roll(full, (1, 1), (0, 1)))
