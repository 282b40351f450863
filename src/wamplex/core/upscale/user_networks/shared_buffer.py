"""Memory shared between the program and a network's process, mapped once."""

from __future__ import annotations

import mmap
import os

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.parallel_rows import run_parallel_rows


class SharedBuffer:
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

    def put(self, numbers: NDArray[np.float32]) -> None:
        """Copy numbers of any shape in."""
        rows = numbers.reshape(-1, numbers.shape[-1])
        target = self.numbers(numbers.size).reshape(rows.shape)
        run_parallel_rows(len(rows), rows[:1].nbytes, lambda some: np.copyto(target[some], rows[some]))

    def take(self, shape: tuple[int, ...]) -> NDArray[np.float32]:
        """A copy of numbers of this shape."""
        source = self.numbers(int(np.prod(shape))).reshape(-1, shape[-1])
        buffer = np.empty(source.shape, np.float32)
        run_parallel_rows(len(source), source[:1].nbytes, lambda some: np.copyto(buffer[some], source[some]))
        return buffer.reshape(shape)
