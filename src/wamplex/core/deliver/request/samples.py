"""Samples as files hold them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

Samples = NDArray[np.uint8] | NDArray[np.uint16]
# Full-width runs of rows from top to bottom, (h, width, channels), uint8 or uint16.
Bands = Iterator[Samples]
