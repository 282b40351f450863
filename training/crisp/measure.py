"""How crisp and how true Kestrel's results are on held-out photographs."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import torch
from scipy import ndimage

from training.crisp.network import CrispNetwork, detail_scale, luma, uniform_noise
from training.heldout import held_out_photographs, luma_psnr, shrink
from training.network import Enlarger

_SEED = 7
# Training does not judge the borders of patches, so none may be seen here; the picture goes on mirrored.
_MIRRORED_PX = 12


@torch.no_grad()
def crisp_result(network: CrispNetwork, mean_network: Enlarger, small: np.ndarray, steps: int = 4) -> np.ndarray:
    """Kestrel's enlargement of a picture (H, W, 3) uint8, with Vellum's colours."""
    source = _mirrored(small)
    mean = mean_network(source, network.factor)
    detail, scale = detail_scale(luma(mean))
    torch.manual_seed(_SEED)
    state = network.flow(network.features(source), uniform_noise(tuple(detail.shape)), detail, steps)
    return _to_bytes(mean + state * scale, network.factor)


@torch.no_grad()
def mean_result(mean_network: Enlarger, small: np.ndarray, factor: int) -> np.ndarray:
    """Vellum's enlargement of a picture (H, W, 3) uint8."""
    return _to_bytes(mean_network(_mirrored(small), factor), factor)


def _mirrored(small: np.ndarray) -> torch.Tensor:
    """(1, 3, H, W) in 0..1, with mirrored borders."""
    border = (_MIRRORED_PX, _MIRRORED_PX)
    wide = np.pad(small, (border, border, (0, 0)), mode="reflect")
    return torch.from_numpy(wide.transpose(2, 0, 1).copy()).float().div_(255)[None]


def measure(work: Path, network: CrispNetwork, mean_network: Enlarger) -> str:
    """Mean PSNR and strength of the finest detail, of Kestrel and of Vellum, in one line."""
    rows = []
    for picture in held_out_photographs(work).values():
        truth, small = shrink(picture, network.factor)
        results = crisp_result(network, mean_network, small), mean_result(mean_network, small, network.factor)
        rows.append([f(r, truth, network.factor) for r in results for f in (luma_psnr, fine_detail)])
    psnr, fine, psnr_mean, fine_mean = np.mean(rows, axis=0)
    return f"crisp {psnr:.2f} dB, fine detail {fine:.2f}; mean {psnr_mean:.2f} dB, {fine_mean:.2f}"


def fine_detail(result: np.ndarray, truth: np.ndarray, border: int) -> float:
    """Strength of what a Gaussian of 1 px takes away, relative to the truth's."""
    strengths = []
    for pixels in (result, truth):
        y = pixels.astype(np.float32) @ np.array([0.299, 0.587, 0.114], np.float32)
        fine = y - ndimage.gaussian_filter(y, 1.0)
        strengths.append(float(fine[border:-border, border:-border].std()))
    return strengths[0] / strengths[1]


def _to_bytes(planes: torch.Tensor, factor: int) -> np.ndarray:
    """(H, W, 3) uint8 without the mirrored borders."""
    border = _MIRRORED_PX * factor
    inner = planes[0, :, border:-border, border:-border]
    return (inner.clamp(0, 1) * 255).round().byte().numpy().transpose(1, 2, 0)
