"""Differences between a result and the known truth, on the luma of ITU-R BT.601."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.lazy_imports import ndimage
from wamplex.core.model.picture import Pixels

DoublePlane = NDArray[np.float64]
# Of Xue et al. (2014), for values of 0 to 255.
_GMSD_CONSTANT = 170.0


def luma(pixels: Pixels) -> DoublePlane:
    """Luma in 16..235 (studio range) of R'G'B' (or grey) in 0..1: (H, W, C) to (H, W)."""
    if pixels.shape[2] < 3:
        return 16 + 219 * pixels[..., 0].astype(np.float64)
    result: DoublePlane = 16 + pixels[..., :3].astype(np.float64) @ np.array([65.481, 128.553, 24.966])
    return result


def psnr(result: DoublePlane, truth: DoublePlane) -> float:
    """Peak signal-to-noise ratio in dB, peak 255; infinite for equal planes.

    Returns
    -------
    dB.
    """
    error = float(np.mean((result - truth) ** 2))
    return float("inf") if error == 0 else 10 * float(np.log10(255**2 / error))


def ssim(result: DoublePlane, truth: DoublePlane) -> float:
    """Structural similarity (Wang, Bovik, Sheikh and Simoncelli 2004), 1 is equal.

    Planes of 0..255, at least 11 pixels a side; Gaussian window of 1.5 pixels over 11 x 11, K1 0.01,
    K2 0.03, mean over the places whose window lies inside.

    Returns
    -------
    -1 to 1.
    """

    def smoothed(plane: DoublePlane) -> DoublePlane:
        result: DoublePlane = ndimage.gaussian_filter(plane, 1.5, radius=5)[5:-5, 5:-5]
        return result

    mean_r, mean_t = smoothed(result), smoothed(truth)
    variance_r = smoothed(result**2) - mean_r**2
    variance_t = smoothed(truth**2) - mean_t**2
    covariance = smoothed(result * truth) - mean_r * mean_t
    c1, c2 = (0.01 * 255) ** 2, (0.03 * 255) ** 2
    numerator = (2 * mean_r * mean_t + c1) * (2 * covariance + c2)
    return float((numerator / ((mean_r**2 + mean_t**2 + c1) * (variance_r + variance_t + c2))).mean())


def gmsd(result: DoublePlane, truth: DoublePlane) -> float:
    """Gradient magnitude similarity deviation (Xue, Zhang, Mou and Bovik 2014); 0 is equal, less is better.

    Planes of 0..255, at least 8 pixels a side. As published: halved by 2 x 2 means, Prewitt gradients.

    Returns
    -------
    From 0 on.
    """
    one, other = _gradient(_halved(result)), _gradient(_halved(truth))
    similarity = (2 * one * other + _GMSD_CONSTANT) / (one**2 + other**2 + _GMSD_CONSTANT)
    return float(similarity.std())


def _halved(plane: DoublePlane) -> DoublePlane:
    rows, columns = (n // 2 * 2 for n in plane.shape)
    trimmed: DoublePlane = plane[:rows, :columns].reshape(rows // 2, 2, columns // 2, 2).mean(axis=(1, 3))
    return trimmed


def _gradient(plane: DoublePlane) -> DoublePlane:
    """Prewitt gradient magnitude, a third of the sums, inside the picture."""
    sums = plane[:-2] + plane[1:-1] + plane[2:]
    across = (sums[:, 2:] - sums[:, :-2]) / 3
    sums = plane[:, :-2] + plane[:, 1:-1] + plane[:, 2:]
    down = (sums[2:] - sums[:-2]) / 3
    return np.hypot(across, down)
