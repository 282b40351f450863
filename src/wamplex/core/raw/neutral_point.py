"""White balance from a place that should be grey."""

from __future__ import annotations

import numpy as np

from wamplex.core.model.raw_file import RawFile

_AROUND_PX = 4
# Darker or brighter than this, a place tells more of noise or of cut-off channels than of the light.
_LEAST, _MOST = 0.002, 0.98
_LEAST_GAIN, _MOST_GAIN = 0.1, 20.0


def balance_from_neutral(raw: RawFile, across: float, down: float) -> tuple[float, float] | None:
    """Gains of red and blue that make the surroundings of a place grey.

    Parameters
    ----------
    across, down : of the upright picture, as shares of its width and height

    Returns
    -------
    None where the place is too dark, or cut off.
    """
    upright = np.rot90(raw.developed, -raw.turns)
    height, width = upright.shape[:2]
    x, y = round(across * width), round(down * height)
    rows = slice(max(y - _AROUND_PX, 0), y + _AROUND_PX + 1)
    columns = slice(max(x - _AROUND_PX, 0), x + _AROUND_PX + 1)
    part = upright[rows, columns].reshape(-1, 3)
    if len(part) == 0:
        return None
    mean_rgb = part.mean(axis=0) / raw.white  # balanced as shot
    recorded = mean_rgb / np.asarray(raw.gains)
    if recorded.min() < _LEAST or recorded.max() > _MOST:
        return None
    red, blue = (float(np.clip(raw.gains[i] * mean_rgb[1] / mean_rgb[i], _LEAST_GAIN, _MOST_GAIN)) for i in (0, 2))
    return red, blue
