"""Excludes objects that live as long as the program from garbage collection."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager

# That so many have come is worth it.
MANY = 100


def freeze_gc() -> None:
    """Exclude all present objects from garbage collection.

    A collection stops all threads, and the window with them: for 0.1 to 0.2 s with the objects of the
    libraries, and 20 ms more with a thousand pictures. Frozen reference cycles are not collected; everything
    else is freed as usual.
    """
    gc.freeze()


@contextmanager
def frozen_gc() -> Iterator[None]:
    """Do not even search while all that comes is there to stay, as modules and the parts of a window are."""
    gc.disable()
    try:
        yield
    finally:
        gc.enable()
        freeze_gc()
