"""The pictures every network is measured on and never trained on, and what is done to them first."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from PIL import Image
from skimage import data as sk_data
from sklearn.datasets import load_sample_images

from training.damage import NOISE_PLANE_LEVELS, Damaged, gaussian_noise, jpeg
from training.fetch import unpacked_dir
from training.places import held_out_dir
from training.sources import SOURCES
from wamplex.core.readings.full_reference import luma, psnr

_OPENCV_SAMPLES = ("baboon.jpg", "fruits.jpg", "building.jpg", "butterfly.jpg", "aloeL.jpg", "graf1.png")


def held_out_photographs(work: Path) -> dict[str, np.ndarray]:
    """RGB uint8 pictures from scikit-image, scikit-learn and OpenCV's samples."""
    pictures = {
        name: getattr(sk_data, name)() for name in ("astronaut", "chelsea", "coffee", "camera", "rocket", "brick")
    }
    for path, image in zip(("china", "flower"), load_sample_images().images, strict=True):
        pictures[path] = image
    for source in SOURCES:
        if source.collection == "held-out photographs":
            folder = unpacked_dir(work, source) / "usr/share/doc/opencv-doc/examples/data"
            for name in _OPENCV_SAMPLES:
                pictures[Path(name).stem] = np.asarray(Image.open(folder / name).convert("RGB"))
    return {name: np.stack([p] * 3, axis=-1) if p.ndim == 2 else p[..., :3] for name, p in pictures.items()}


def held_out_drawings(work: Path) -> dict[str, np.ndarray]:
    """RGB uint8 drawings, and pages set in faces no network has seen."""
    return {p.stem: np.asarray(Image.open(p).convert("RGB")) for p in sorted(held_out_dir(work).glob("*.png"))}


def _jpeg_condition(quality: int) -> Callable[[np.ndarray], Damaged]:
    return lambda small: Damaged(jpeg(small, quality), blocks_plane=(100 - quality) / 100)


def _noise_condition(sigma: float) -> Callable[[np.ndarray], Damaged]:
    def add(small: np.ndarray) -> Damaged:
        noisy = gaussian_noise(small, sigma, np.random.default_rng(7))
        return Damaged(noisy, noise_plane=sigma / NOISE_PLANE_LEVELS)

    return add


CONDITIONS: dict[str, Callable[[np.ndarray], Damaged]] = {
    "clean": Damaged,
    **{f"JPEG {quality}": _jpeg_condition(quality) for quality in (75, 50, 30)},
    **{f"noise {sigma}": _noise_condition(sigma) for sigma in (5, 15, 25)},
}


def shrink(picture: np.ndarray, factor: int) -> tuple[np.ndarray, np.ndarray]:
    """The picture cut to a multiple of ``factor``, and its antialiased bicubic reduction."""
    height, width = (n - n % factor for n in picture.shape[:2])
    truth = np.ascontiguousarray(picture[:height, :width])
    small = Image.fromarray(truth).resize((width // factor, height // factor), Image.Resampling.BICUBIC)
    return truth, np.asarray(small)


def luma_psnr(result: np.ndarray, truth: np.ndarray, border: int) -> float:
    """PSNR in dB of the luma of uint8 pictures, with ``border`` pixels cut off on every side."""
    cut = (slice(border, -border), slice(border, -border))
    one, other = (luma(p.astype(np.float32) / np.float32(255))[cut] for p in (result, truth))
    return min(psnr(one, other), 100.0)
