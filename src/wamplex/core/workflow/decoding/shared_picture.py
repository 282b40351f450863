"""Moves a picture between processes: its arrays through shared memory, the rest as a pickle (PEP 574)."""

from __future__ import annotations

import mmap
import os
import pickle
from collections.abc import Sequence
from typing import Any

_ALIGNMENT = 64  # so that every array begins on a line of the processor's cache


def write_shared(value: object, descriptor: int) -> tuple[bytes, list[int]]:
    """Write the arrays of a value into a file in memory.

    Parameters
    ----------
    value : anything that can be pickled
    descriptor : of an empty file

    Returns
    -------
    The pickle without its arrays, and the size of each array in bytes.

    Raises
    ------
    OSError : when the memory is full
    """
    arrays: list[pickle.PickleBuffer] = []
    pickled = pickle.dumps(value, protocol=5, buffer_callback=arrays.append)
    views = [array.raw() for array in arrays]
    sizes = [view.nbytes for view in views]
    for start, view in zip(_starts(sizes), views, strict=True):
        os.lseek(descriptor, start, os.SEEK_SET)
        while view.nbytes:
            view = view[os.write(descriptor, view) :]
    return pickled, sizes


def read_shared(pickled: bytes, sizes: Sequence[int], descriptor: int) -> Any:
    """Rebuild a value; its arrays are read-only, and share the memory of the file.

    Parameters
    ----------
    pickled, sizes : as `write_shared` returned them
    descriptor : of the file; it can be closed afterwards

    Returns
    -------
    The value.
    """
    starts = _starts(sizes)
    if not any(sizes):
        return pickle.loads(pickled, buffers=[b"" for _ in sizes])
    memory = memoryview(mmap.mmap(descriptor, starts[-1] + sizes[-1], prot=mmap.PROT_READ))
    return pickle.loads(pickled, buffers=[memory[a : a + n] for a, n in zip(starts, sizes, strict=True)])


def _starts(sizes: Sequence[int]) -> list[int]:
    starts, end = [], 0
    for size in sizes:
        starts.append(end)
        end += -(-size // _ALIGNMENT) * _ALIGNMENT
    return starts
