"""What is there for good need not be looked at again and again."""

from __future__ import annotations

import gc

# That so many have come is worth it.
MANY = 100


def all_stays() -> None:
    """Leave what is there now out of Python's search for what nobody needs any more.

    That search stops all threads, and the window with them: for 0.1 to 0.2 s with what the libraries bring,
    for 20 ms more with a thousand pictures. What is let go of later is freed as ever, unless it has come to
    refer to itself in a circle.
    """
    gc.freeze()
