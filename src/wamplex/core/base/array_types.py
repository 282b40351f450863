"""Types of arrays that many modules share."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

# One channel, (H, W).
Plane = NDArray[np.float32]
Luma = NDArray[np.float32]
# Three channels, (H, W, 3).
Rgb8 = NDArray[np.uint8]
# (3, 3), or (3,) for a single colour.
Matrix = NDArray[np.float64]
