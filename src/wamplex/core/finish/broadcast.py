"""One plane for all colours."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.lazy_imports import cv2


def broadcast_plane(plane: NDArray[np.float32], colours: int) -> NDArray[np.float32]:
    """(H, W) to (H, W, colours): what is added to pixels so takes half the time of a broadcast plane."""
    return np.asarray(plane[..., None] if colours == 1 else cv2.merge([plane] * colours))
