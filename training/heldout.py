"""The pictures every network is measured on and never trained on."""

from __future__ import annotations

import numpy as np
from PIL import Image
from skimage import data as sk_data
from sklearn.datasets import load_sample_images


def held_out_pictures() -> dict[str, np.ndarray]:
    """RGB uint8 pictures from scikit-image (data module) and scikit-learn (sample images)."""
    pictures = {
        name: getattr(sk_data, name)()
        for name in ("astronaut", "chelsea", "coffee", "camera", "rocket", "brick")
    }
    for path, image in zip(("china", "flower"), load_sample_images().images, strict=True):
        pictures[path] = image
    return {name: np.stack([p] * 3, axis=-1) if p.ndim == 2 else p[..., :3] for name, p in pictures.items()}


def shrink(picture: np.ndarray, factor: int) -> tuple[np.ndarray, np.ndarray]:
    """The picture cut to a multiple of ``factor``, and its antialiased bicubic reduction."""
    height, width = (n - n % factor for n in picture.shape[:2])
    truth = np.ascontiguousarray(picture[:height, :width])
    small = Image.fromarray(truth).resize((width // factor, height // factor), Image.Resampling.BICUBIC)
    return truth, np.asarray(small)


def luma(picture: np.ndarray) -> np.ndarray:
    """ITU-R BT.601 luma of R'G'B' in 0..255, studio range 16..235."""
    rgb = picture.astype(np.float64) / 255
    return 16 + rgb @ np.array([65.481, 128.553, 24.966])


def luma_psnr(result: np.ndarray, truth: np.ndarray, border: int) -> float:
    """PSNR in dB of the luma, with ``border`` pixels cut off on every side."""
    difference = (luma(result) - luma(truth))[border:-border, border:-border]
    return float(10 * np.log10(255**2 / np.mean(difference**2)))
