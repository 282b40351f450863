"""Measures the shipped networks against interpolation on the held-out pictures and prints a table."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import onnxruntime
from PIL import Image
from skimage.metrics import structural_similarity

from training.heldout import held_out_pictures, luma, luma_psnr, shrink
from training.network import FACTORS


def evaluate(models: Path) -> None:
    """Print luma PSNR and SSIM of each method and factor, means over the held-out pictures."""
    print("| factor | bicubic | Lanczos 3 | Vellum | gain | least gain | SSIM bicubic | SSIM Vellum |")
    print("|---|---|---|---|---|---|---|---|")
    for factor in FACTORS:
        session = onnxruntime.InferenceSession(str(models / f"vellum-standard-{factor}x.onnx"))
        rows = [_measure(picture, factor, session) for picture in held_out_pictures().values()]
        bicubic, lanczos, vellum, ssim_bicubic, ssim_vellum = np.mean(rows, axis=0)
        worst = min(row[2] - row[0] for row in rows)
        decibels = f"{bicubic:.2f} dB | {lanczos:.2f} dB | {vellum:.2f} dB | {vellum - bicubic:+.2f} dB"
        print(f"| {factor}x | {decibels} | {worst:+.2f} dB | {ssim_bicubic:.4f} | {ssim_vellum:.4f} |")


def _measure(picture: np.ndarray, factor: int, session: onnxruntime.InferenceSession) -> tuple[float, ...]:
    truth, small = shrink(picture, factor)
    size = (truth.shape[1], truth.shape[0])
    image = Image.fromarray(small)
    bicubic = np.asarray(image.resize(size, Image.Resampling.BICUBIC))
    lanczos = np.asarray(image.resize(size, Image.Resampling.LANCZOS))
    tensor = small.transpose(2, 0, 1)[None].astype(np.float32) / 255
    (made,) = session.run(None, {"source": tensor})
    vellum = np.rint(np.clip(made[0].transpose(1, 2, 0), 0, 1) * 255).astype(np.uint8)
    psnrs = [luma_psnr(result, truth, factor) for result in (bicubic, lanczos, vellum)]
    return (*psnrs, _ssim(bicubic, truth, factor), _ssim(vellum, truth, factor))


def _ssim(result: np.ndarray, truth: np.ndarray, border: int) -> float:
    """SSIM of the luma with the Gaussian window of Wang et al. (2004)."""
    a, b = (luma(p)[border:-border, border:-border] for p in (result, truth))
    return float(
        structural_similarity(
            a, b, data_range=255, gaussian_weights=True, sigma=1.5, use_sample_covariance=False
        )
    )
