"""Measures of spread that outliers hardly change."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

_OF_NORMAL = 1.4826  # standard deviation over median absolute deviation of a normal distribution (Huber 1981)


def robust_deviation(errors: NDArray[np.float64]) -> float:
    """Standard deviation of errors around 0, from their median.

    Parameters
    ----------
    errors : of any shape, not empty
    """
    return _OF_NORMAL * float(np.median(np.abs(errors)))
