"""Validates the output of a network before its use."""

from __future__ import annotations

import numpy as np

from wamplex.core.base.errors import UpscalerError
from wamplex.core.base.parallel_rows import run_parallel_rows
from wamplex.core.model.picture import Pixels

# Networks overshoot at edges; what lies further out is no picture.
_LEAST, _MOST = -2.0, 3.0


def validate_output(pixels: Pixels, name: str, brightest: float = 1.0) -> None:
    """Refuse a result that holds anything but plausible numbers.

    Parameters
    ----------
    pixels : of any shape, about 0..1
    name : of the network, for the sentence
    brightest : of what the network was given

    Raises
    ------
    UpscalerError : when a value is no number, or far outside of what the network was given
    """
    rows = pixels.reshape(-1, pixels.shape[-1])
    ends: list[tuple[float, float]] = []
    run_parallel_rows(
        len(rows),
        rows[:1].nbytes,
        lambda some: ends.append((float(rows[some].min()), float(rows[some].max()))),
    )
    # Both are NaN where any value is, and comparisons with NaN are false.
    minimum, maximum = float(np.min(ends)), float(np.max(ends))
    if not (minimum >= _LEAST * brightest and maximum <= _MOST * brightest):
        raise UpscalerError(
            f"The network {name} returned invalid values ({minimum:.3g} to {maximum:.3g}). Nothing was "
            "written; choose another upscaler."
        )
