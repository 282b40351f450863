"""Finds plain borders around a picture, which are not part of it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.window import Window
from wamplex.core.model.picture import Pixels

# A row counts as plain when it strays no further than this from the colour of the corner.
_PLAIN = 7 / 255
_LEAST_PX = 3
_MOST_SHARE = 0.4


def find_borders(pixels: Pixels) -> Window | None:
    """The picture without its plain borders; None when it has none worth cutting.

    Parameters
    ----------
    pixels : (H, W, C) float32 in 0..1
    """
    height, width = pixels.shape[:2]
    top, bottom = (_plain_rows(rows) for rows in (pixels, pixels[::-1]))
    left, right = (_plain_rows(c) for c in (pixels.transpose(1, 0, 2), pixels.transpose(1, 0, 2)[::-1]))
    top, bottom, left, right = (n if n >= _LEAST_PX else 0 for n in (top, bottom, left, right))
    if max(top, bottom) > _MOST_SHARE * height or max(left, right) > _MOST_SHARE * width:
        return None  # a plain ground, not a border
    if top + bottom + left + right == 0:
        return None
    return Window(left, top, width - left - right, height - top - bottom)


def _plain_rows(rows: Pixels) -> int:
    """How many rows from the first on are of one colour, as far as it matters."""
    corner: NDArray[np.float32] = rows[0, 0]
    max_rows = int(len(rows) * _MOST_SHARE) + 2
    for number in range(min(max_rows, len(rows))):
        if float(np.abs(rows[number] - corner).max()) > _PLAIN:
            return number
    return max_rows
