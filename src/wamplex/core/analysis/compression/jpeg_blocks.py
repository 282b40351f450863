"""The JPEG quality a picture was once saved with, from its pixels alone."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wamplex.core.analysis.compression.file_compression import standard_table
from wamplex.core.base.array_types import Luma
from wamplex.core.base.lazy_imports import fft

_LEAST_QUALITY, _BEST_QUALITY = 10, 97
_MOST_BLOCKS = 1500
# Spread of a coefficient about the quantiser's steps once the pixels were rounded to 8 bits.
_ROUNDING = 0.45
# The same where a later save on another grid has added its own rounding.
_ROUNDING_TWICE = 1.8
_OUTLIERS = 0.03
# Smaller coefficients are zero at any quality and tell nothing.
_LEAST_COEFFICIENT = 2.0
_LEAST_COEFFICIENTS = 200
# Steps as small as this are still seen behind the rounding of pixels; smaller ones are not.
_LEAST_STEP = 2.0
_HIGHEST_FREQUENCY = 9  # row and column together; beyond it little is left
# Mean log-likelihood over that of a picture never compressed. Clean photographs stay below 0.2, those saved
# at 95 lie above 0.4.
_LEAST_EVIDENCE = 0.3


@dataclass(frozen=True)
class PixelCompression:
    """What the pixels say about an earlier save as JPEG.

    Attributes
    ----------
    quality : 1 to 100 on the scale of the Independent JPEG Group
    grid_x, grid_y : where the 8-pixel grid begins, 0 to 7; not 0 when the picture was cropped since
    """

    quality: int
    grid_x: int
    grid_y: int


def estimate_compression(luma: Luma, *, cropped: bool = False) -> PixelCompression | None:
    """The quality whose quantiser steps explain the picture's coefficients best; None when none does.

    Maximum likelihood of the coefficients of the discrete cosine transform under each quality's steps, after
    the idea of Fan and de Queiroz (2003), over the grid at the corner and the grid that edges suggest.

    Parameters
    ----------
    luma : (H, W) in 8-bit levels, 0 to 255
    cropped : look only for a grid that does not begin at the corner

    Returns
    -------
    Quality 1 to 100 and how clearly it is seen.
    """
    if min(luma.shape) < 64:
        return None
    corners = {(0, 0), tuple(_grid_start(luma, axis, cropped=cropped) for axis in (0, 1))}
    if cropped:
        corners.discard((0, 0))
    if not corners:
        return None
    spread = _ROUNDING_TWICE if cropped else _ROUNDING
    candidates = [(*_best_quality(luma[y:, x:], spread), x, y) for y, x in corners]
    significance, quality, x, y = max(candidates)
    return PixelCompression(quality, x, y) if significance > _LEAST_EVIDENCE else None


def _grid_start(luma: Luma, axis: int, *, cropped: bool) -> int:
    """Find the phase of steps that repeat every eight pixels."""
    steps = np.minimum(np.abs(np.diff(luma, axis=axis)), 30).mean(axis=1 - axis)
    excess = steps[1:-1] - (steps[:-2] + steps[2:]) / 2
    # excess[i] belongs to the step between pixels i + 1 and i + 2.
    marks = [float(np.median(excess[(k - 2) % 8 :: 8])) for k in range(8)]
    if cropped and max(marks[1:]) > 0:
        marks[0] = -np.inf  # the last save has its steps there
    return int(np.argmax(marks))


def _best_quality(luma: Luma, spread: float) -> tuple[float, int]:
    """Evidence and quality."""
    coefficients = low_frequencies(block_coefficients(luma))
    count = sum(len(values) for _, _, values in coefficients)
    if count < _LEAST_COEFFICIENTS:
        return 0.0, _BEST_QUALITY
    best = (0.0, _BEST_QUALITY)
    known_steps: dict[tuple[int, int, float], float] = {}  # many qualities share a step
    for quality in range(_LEAST_QUALITY, _BEST_QUALITY + 1):
        table = standard_table(quality, chroma=False).reshape(8, 8)
        total = 0.0
        for u, v, values in coefficients:
            key = (u, v, float(table[u, v]))
            if key not in known_steps:
                known_steps[key] = _log_likelihood_gain(values, key[2], spread)
            total += known_steps[key]
        best = max(best, (total / count, quality))
    return best


def low_frequencies(coefficients: NDArray[np.float32]) -> list[tuple[int, int, NDArray[np.float32]]]:
    """Row, column and values of the low frequencies, without the constant and without values near zero."""
    return [
        (u, v, values[np.abs(values) > _LEAST_COEFFICIENT])
        for u in range(8)
        for v in range(8)
        if 0 < u + v <= _HIGHEST_FREQUENCY
        for values in [coefficients[:, u, v]]
    ]


def grid_blocks(luma: Luma) -> Luma:
    """The whole blocks of the grid that begins at the corner, (N, 8, 8)."""
    rows, columns = (n // 8 for n in luma.shape)
    cells = luma[: rows * 8, : columns * 8].reshape(rows, 8, columns, 8).transpose(0, 2, 1, 3)
    return cells.reshape(-1, 8, 8)


def block_coefficients(luma: Luma) -> NDArray[np.float32]:
    """Cosine transform of up to 1500 blocks, (N, 8, 8)."""
    cells = grid_blocks(luma)
    # Where the picture is cut off at black or white, steps are lost.
    cells = cells[(cells.min(axis=(1, 2)) > 1) & (cells.max(axis=(1, 2)) < 254)]
    if len(cells) > _MOST_BLOCKS:
        cells = cells[np.linspace(0, len(cells) - 1, _MOST_BLOCKS).astype(int)]
    coefficients: NDArray[np.float32] = fft.dctn(cells - 128, axes=(1, 2), norm="ortho")
    return coefficients


def _log_likelihood_gain(values: NDArray[np.float32], step: float, spread: float) -> float:
    """Log-likelihood that values lie on multiples of a step, over that they lie anywhere."""
    if step < _LEAST_STEP * spread / _ROUNDING:
        return 0.0
    off = values - np.rint(values / step) * step
    density = np.exp(-0.5 * (off / spread) ** 2) / (spread * np.sqrt(2 * np.pi))
    return float(np.log(step * (1 - _OUTLIERS) * density + _OUTLIERS).sum())
