"""Random numbers that depend on the position alone, for texture."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.parallel_rows import run_parallel_rows
from wamplex.core.base.window import Window

_ROOT_12 = np.float32(np.sqrt(12))


def position_noise(window: Window) -> NDArray[np.float32]:
    """Grain of a window: the same at a place whichever window asks, and on every computer.

    Returns
    -------
    (height, width) float32, evenly distributed with mean 0 and standard deviation 1
    """
    columns = np.arange(window.x, window.right, dtype=np.uint32)
    # A row's own number is mixed before the column comes in, so that rows and columns count differently.
    rows = _mixed(np.arange(window.y, window.bottom, dtype=np.uint32) ^ np.uint32(0x9E3779B9))
    out = np.empty((window.height, window.width), np.float32)

    def fill(some: slice) -> None:
        mixed = _mixed(rows[some, np.newaxis] ^ columns)
        mixed ^= np.uint32(1 << 31)  # numbers less half their range, which processors make floats of quickly
        out[some] = mixed.view(np.int32)
        out[some] *= _ROOT_12 / np.float32(2**32)

    run_parallel_rows(window.height, window.width * 4, fill)
    return out


def fold_into_planes(numbers: NDArray[np.float32], factor: int) -> NDArray[np.float32]:
    """Planes (f², height, width) of numbers (f · height, f · width), in the order of the pixel shuffle."""
    height, width = (n // factor for n in numbers.shape)
    cells = numbers.reshape(height, factor, width, factor)
    return cells.transpose(1, 3, 0, 2).reshape(factor * factor, height, width)


def _mixed(numbers: NDArray[np.uint32]) -> NDArray[np.uint32]:
    """Every bit of the result hangs on every bit of the number (two multiplications and three shifts).

    The multipliers are those of "lowbias32" (Wellons 2018, found by search for the least bias).
    """
    numbers = numbers ^ (numbers >> np.uint32(16))
    numbers *= np.uint32(0x7FEB352D)
    numbers ^= numbers >> np.uint32(15)
    numbers *= np.uint32(0x846CA68B)
    numbers ^= numbers >> np.uint32(16)
    return numbers
