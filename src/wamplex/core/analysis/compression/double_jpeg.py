"""Whether a JPEG file was saved as JPEG before, at a lower quality."""

from __future__ import annotations

import numpy as np

from wamplex.core.analysis.compression.file_compression import standard_table
from wamplex.core.analysis.compression.jpeg_blocks import block_coefficients, low_frequencies
from wamplex.core.base.array_types import Luma

_LEAST_QUALITY = 10
_BELOW = 5
_CLEARLY_COARSER = 1.5
_AGREEING = 0.97  # share of coefficients that lie where a first save would have put them
# Mean log-likelihood over chance; pictures saved once stay at or below 0.
_LEAST_EVIDENCE = 0.08


def detect_earlier_quality(luma: Luma, quality: int) -> int | None:
    """Quality of an earlier save on the same grid, None when there seems to have been none.

    A second, finer quantisation leaves only those of its steps filled that a multiple of the first one's
    step is rounded to (double quantisation, Lukas and Fridrich 2003). The lower quality counts under which
    this is likeliest, over chance.

    Parameters
    ----------
    luma : (H, W) in 8-bit levels, 0 to 255, beginning on the grid
    quality : of the last save, from the file's tables
    """
    if min(luma.shape) < 64 or quality <= _LEAST_QUALITY + _BELOW:
        return None
    last = standard_table(quality, chroma=False).reshape(8, 8)
    qualities = []
    for u, v, values in low_frequencies(block_coefficients(luma)):
        step = float(last[u, v])
        qualities.append((u, v, step, np.rint(np.abs(values) / step)))
    count = sum(len(steps) for *_, steps in qualities)
    if count == 0:
        return None
    best = (0.0, quality)
    for candidate in range(_LEAST_QUALITY, quality - _BELOW + 1):
        first = standard_table(candidate, chroma=False).reshape(8, 8)
        total = sum(_log_likelihood_gain(steps, step, float(first[u, v])) for u, v, step, steps in qualities)
        best = max(best, (total / count, candidate))
    return best[1] if best[0] > _LEAST_EVIDENCE else None


def _log_likelihood_gain(filled: np.ndarray, step: float, first: float) -> float:
    """Log-likelihood that the filled steps are those a first quantiser leaves, over chance."""
    if len(filled) == 0 or first <= _CLEARLY_COARSER * step:
        return 0.0
    multiples = np.arange(int(filled.max() * step / first) + 2)
    reachable = np.unique(np.rint(multiples * first / step))
    chance = min(0.999, len(reachable) / (reachable[-1] + 1))
    agreeing = float(np.isin(filled, reachable).mean())
    each = agreeing * np.log(_AGREEING / chance) + (1 - agreeing) * np.log((1 - _AGREEING) / (1 - chance))
    return float(len(filled) * each)
