"""The priority of a single thread (Linux)."""

from __future__ import annotations

import contextlib
import os
import threading

# Niceness as in nice(1), where the window's own thread has 0. While others want a processor too, the window
# gives away what they weigh beside it: a third of its time to each at 5, an eighth at 9.
FOR_THE_EYE = 9  # what is waited for
BEHIND = 10  # what may take its time
# The threads inside networks. They stand behind all that works in Python: a thread that holds Python's lock
# while it waits for a processor keeps the window waiting as well, for up to 140 ms when these came before it.
# Four further than what may take its time, two files made at the same time take a fifteenth longer for it,
# eleven further a sixth.
CRUNCHING = 14


def lower_thread_priority(niceness: int, thread: int | None = None) -> None:
    """Give a thread a niceness, as in nice(1); the calling thread if none is named.

    Threads that it starts from then on have the same. Without leave it can only be raised.
    """
    # Where threads have no niceness of their own, it is a courtesy that can be left out.
    with contextlib.suppress(OSError):
        os.setpriority(os.PRIO_PROCESS, thread or threading.get_native_id(), niceness)
