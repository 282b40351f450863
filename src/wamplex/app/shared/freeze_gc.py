"""Excludes objects that live as long as the program from garbage collection."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager

# That so many have come is worth it.
MANY = 100


def freeze_gc() -> None:
    """Leave what is there now out of Python's search for what nobody needs any more.

    That search stops all threads, and the window with them: for 0.1 to 0.2 s with what the libraries bring,
    for 20 ms more with a thousand pictures. What is let go of later is freed as ever, unless it has come to
    refer to itself in a circle.
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
