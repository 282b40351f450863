"""Noise behind the quantiser of a JPEG: what is left of it in the fine coefficients of calm blocks.

Behind compression fine noise is partly gone: most coefficients became nothing. How many did not, and how
large they are, still tells how strong it was, since the quantiser's steps are known.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.analysis.compression.file_compression import standard_table
from wamplex.core.analysis.compression.jpeg_blocks import grid_blocks
from wamplex.core.base.array_types import Luma
from wamplex.core.base.lazy_imports import fft, special

# Strengths that are tried, in 8-bit levels.
_SCALES = np.exp(np.linspace(np.log(0.4), np.log(60), 72))
_MOST_STEPS = 24  # coefficients of more steps count as of as many
_LEAST_BLOCKS, _MOST_BLOCKS = 12, 4000
_CALM_SHARE = 0.15
# Nearer than this to black or white, in levels, noise is cut off.
_CUT_OFF = 20
# By row and column together: what shows whether a block is calm, and where its noise is looked for.
_ORDER = np.add.outer(np.arange(8), np.arange(8)).ravel()
_CALM_BY = (_ORDER >= 1) & (_ORDER <= 3)
_FINE = _ORDER >= 4
_UNLIKELY = 1e-6


def estimate_noise_behind_jpeg(luma: Luma, quality: int) -> float | None:
    """Standard deviation of the luma's noise before it was saved, structure that looks like it included.

    Maximum likelihood of the spread of quantised normal variables, which the fine coefficients of noise are
    (Lam and Goodman 2000), over the calmest blocks.

    Parameters
    ----------
    luma : (H, W) in 8-bit levels, the blocks of the file beginning at its corner
    quality : 1 to 100 on the scale of the Independent JPEG Group

    Returns
    -------
    8-bit levels; None where there are too few blocks that are neither black nor white.
    """
    steps = standard_table(quality, chroma=False)
    coefficients = _coefficients(luma)
    level = coefficients[:, 0] / 8  # about middle grey
    usable = coefficients[np.abs(level) < 128 - _CUT_OFF]
    if len(usable) < _LEAST_BLOCKS:
        return None
    count = max(_LEAST_BLOCKS, int(_CALM_SHARE * len(usable)))
    calmest = np.argsort(np.square(usable[:, _CALM_BY]).sum(axis=1), kind="stable")[:count]
    sizes = np.rint(np.abs(usable[calmest][:, _FINE]) / steps[_FINE])
    counts = _counts(np.minimum(sizes, _MOST_STEPS).astype(np.int64))
    likelihood = np.einsum("fk,fks->s", counts, _likelihood(steps[_FINE]))
    return float(_SCALES[int(np.argmax(likelihood))])


def _coefficients(luma: Luma) -> Luma:
    """Cosine transform of the blocks, (N, 64)."""
    cells = grid_blocks(luma)
    if len(cells) > _MOST_BLOCKS:
        cells = cells[np.linspace(0, len(cells) - 1, _MOST_BLOCKS).astype(int)]
    coefficients: Luma = fft.dctn(cells - np.float32(128), axes=(1, 2), norm="ortho").reshape(-1, 64)
    return coefficients


def _counts(sizes: NDArray[np.int64]) -> NDArray[np.float64]:
    """How many coefficients of each frequency have each number of steps, (frequencies, steps)."""
    frequencies = sizes.shape[1]
    places = np.arange(frequencies) * (_MOST_STEPS + 1) + sizes
    counted = np.bincount(places.ravel(), minlength=frequencies * (_MOST_STEPS + 1))
    return counted.reshape(frequencies, -1).astype(np.float64)


def _likelihood(steps: NDArray[np.int64]) -> NDArray[np.float64]:
    """Logarithm of how likely each number of steps is at each scale, (frequencies, steps, scales)."""
    upper = (np.arange(_MOST_STEPS + 1) + 0.5)[None, :, None] * steps[:, None, None] / _SCALES
    within = special.erf(upper / np.sqrt(2))
    within[:, -1] = 1.0
    log_likelihood: NDArray[np.float64] = np.log(np.maximum(np.diff(within, axis=1, prepend=0.0), _UNLIKELY))
    return log_likelihood
