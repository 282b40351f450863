"""Luma of R'G'B' pixels, after ITU-R BT.601."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.model.picture import Pixels

WEIGHTS = np.array([0.299, 0.587, 0.114], np.float32)


def luma_plane(pixels: Pixels) -> NDArray[np.float32]:
    """(H, W, C) to (H, W): the luma of colour, the first channel of grey; alpha is passed over."""
    result: NDArray[np.float32] = pixels[..., :3] @ WEIGHTS if pixels.shape[2] >= 3 else pixels[..., 0]
    return result
