"""By which factor a picture was enlarged: the size that loses nothing."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.array_types import Luma

Floats = NDArray[np.float64]

# Factors as powers of two, in sixtieths, which come close to 1.5 and 3 as well; and how many of these to
# either side a picture must lose more.
_FACTORS = 2 ** (np.arange(12, 127) / 60)
_BESIDE = 5
# Enlarged pictures may have been cropped since: the small pixels may lie at any of so many places.
_PLACES = 6
_SIDE_PX, _LONGEST_PX, _STRIPS = 64, 256, 3
_STEEP = 20.0  # levels; steeper steps count no more
# The share of what is lost beside it up to which a factor stands out, and the levels that must be lost there,
# since rounding alone loses half a level. Of 300 photographs as they are, blurred, compressed or noisy, the
# least had 0.73.
_MOST_LOST, _LEAST_BESIDE = 0.70, 0.6
_AS_WELL = 1.1
_ROUNDING = 1e-3  # levels squared


def estimate_resampling_factor(luma: Luma) -> float | None:
    """The factor of an earlier enlargement by bilinear, bicubic or Lanczos interpolation.

    A row of an enlarged picture is a sum of as many kernels as it had pixels, so that its pixels depend on
    each other linearly (Popescu and Farid 2005). Projected onto such sums a picture loses the more, the
    fewer kernels there are; only at the factor of an enlargement it loses less than at either side. A drawing
    may have so few edges that they happen to fit some factor.

    Parameters
    ----------
    luma : (H, W) in 8-bit levels, 0 to 255, 64 or more a side

    Returns
    -------
    The factor, 1.23 to 4; None where none stands out.
    """
    strips = _strips(luma)
    pixels = sum(strip.size for strip in strips)
    products = np.stack([strip.T @ strip for strip in strips])
    shares = np.min([_shares(products, pixels, kernel) for kernel in _KERNELS], axis=0)
    if shares.min() > _MOST_LOST:
        return None
    # Two thirds of the factor, whose sums are nearly as many again, can seem to fit as well.
    (fitting,) = np.nonzero(shares <= _AS_WELL * shares.min())
    largest = fitting[fitting >= fitting[-1] - _BESIDE]
    return _rounded(float(_FACTORS[_BESIDE + largest[shares[largest].argmin()]]))


def _rounded(factor: float) -> float:
    """The factor in quarters or tenths where these are as near; most enlargements are by such."""
    step = _FACTORS[1] / _FACTORS[0] - 1
    for parts, steps in ((4, 1.5), (10, 0.75)):
        near = round(parts * factor) / parts
        if abs(factor / near - 1) < steps * step:
            return near
    return factor


def _strips(luma: Luma) -> list[Floats]:
    """Pieces of rows and of columns, (n, 64) each without its mean, where most is to be seen."""
    strips: list[Floats] = []
    for plane in (luma, luma.T):
        height, width = plane.shape
        length = min(height, _LONGEST_PX)
        steps = np.minimum(np.abs(np.diff(plane, axis=1)), _STEEP)
        places = [
            (float(steps[y : y + length, x : x + _SIDE_PX - 1].sum()), y, x)
            for y in range(0, height - length + 1, length)
            for x in range(0, width - _SIDE_PX + 1, _SIDE_PX // 2)
        ]
        used: list[tuple[int, int]] = []
        for _, y, x in sorted(places, reverse=True):
            if len(used) < _STRIPS and all(y != b or abs(x - a) >= _SIDE_PX for a, b in used):
                used.append((x, y))
                strip = plane[y : y + length, x : x + _SIDE_PX].astype(np.float64)
                strips.append(strip - strip.mean(axis=1, keepdims=True))
    return strips


def _shares(products: Floats, pixels: int, kernel: str) -> Floats:
    """What is lost at each factor but the first and last few, as a share of what is lost beside it."""
    lost = np.array([_lost(products, pixels, kernel, number) for number in range(len(_FACTORS))])
    neighbour = np.minimum(lost[: -2 * _BESIDE], lost[2 * _BESIDE :])
    return np.where(neighbour >= _LEAST_BESIDE, lost[_BESIDE:-_BESIDE] / neighbour, np.inf)


def _lost(products: Floats, pixels: int, kernel: str, number: int) -> float:
    """Root mean square in levels of what enlargements by one factor cannot give back.

    Parameters
    ----------
    products : (strips, 64, 64), each strip's inner products of its columns
    """
    total = float(np.trace(products, axis1=1, axis2=2).sum())
    energies = [(basis * (products @ basis)).sum(axis=(1, 2)) for basis in _bases(kernel, number)]
    left = max(total - float(np.max(energies, axis=0).sum()), 0.0)
    return float(np.sqrt(left / pixels + _ROUNDING))


@cache
def _bases(kernel: str, number: int) -> tuple[Floats, ...]:
    """Orthonormal bases (64, n) of rows enlarged by one factor, for each place of the small pixels."""
    factor = _FACTORS[number]
    bases = []
    for place in np.arange(_PLACES) / _PLACES:
        centres = np.arange(-3, _SIDE_PX / factor + 3) + place
        sums = _KERNELS[kernel](np.arange(_SIDE_PX)[:, None] / factor - centres)
        sums /= sums.sum(axis=1, keepdims=True)
        sums = sums[:, np.abs(sums).sum(axis=0) > 0.05]  # a mere trace of a kernel is no pixel
        bases.append(np.linalg.qr(sums)[0])
    return tuple(bases)


def _bilinear(t: Floats) -> Floats:
    return np.asarray(np.maximum(1 - np.abs(t), 0))


def _bicubic(t: Floats) -> Floats:
    """Keys (1981), a = -1/2."""
    t = np.abs(t)
    near, far = (1.5 * t - 2.5) * t * t + 1, ((-0.5 * t + 2.5) * t - 4) * t + 2
    return np.where(t < 1, near, np.where(t < 2, far, 0))


def _lanczos(t: Floats) -> Floats:
    return np.asarray(np.sinc(t) * np.sinc(t / 3) * (np.abs(t) < 3))


_KERNELS: dict[str, Callable[[Floats], Floats]] = {
    "bilinear": _bilinear,
    "bicubic": _bicubic,
    "Lanczos": _lanczos,
}
