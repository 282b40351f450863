"""Memory that the program and the process of a network both see, mapped once and kept."""

from __future__ import annotations

import mmap
import os

import numpy as np
from numpy.typing import NDArray


class SharedRoom:
    """Room for numbers in a file without a name.

    Parameters
    ----------
    descriptor : of the file, the same in both processes
    """

    def __init__(self, descriptor: int) -> None:
        self._descriptor = descriptor
        self._map: mmap.mmap | None = None

    def numbers(self, count: int) -> NDArray[np.float32]:
        """So many numbers from its beginning; the room grows as needed."""
        needed = 4 * count
        if self._map is None or len(self._map) < needed:
            if os.fstat(self._descriptor).st_size < needed:
                os.ftruncate(self._descriptor, needed)
            # An older map is let go of once nobody holds an array of it.
            self._map = mmap.mmap(self._descriptor, os.fstat(self._descriptor).st_size)
        return np.frombuffer(self._map, np.float32, count)
