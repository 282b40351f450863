"""How readily a single thread stands back, where the system knows that (Linux does)."""

from __future__ import annotations

import contextlib
import os
import threading


def be_nice(niceness: int, thread: int | None = None) -> None:
    """Give a thread a niceness, as in nice(1); the calling thread if none is named.

    Threads that it starts from then on have the same. Without leave it can only be raised.
    """
    # Where threads have no niceness of their own, it is a courtesy that can be left out.
    with contextlib.suppress(OSError):
        os.setpriority(os.PRIO_PROCESS, thread or threading.get_native_id(), niceness)
