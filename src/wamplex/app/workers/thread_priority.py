"""Lowers the priority of worker threads, so that the window stays responsive."""

from __future__ import annotations

import contextlib
import os
import sys
from pathlib import Path

from wamplex.core.base.thread_priority import BEHIND, CRUNCHING, FOR_THE_EYE, lower_thread_priority
from wamplex.core.upscale.networks.sessions import lower_session_priority

# Seconds after which a thread that works in Python lets others have their turn. A frame lasts 16 ms, and in
# one frame the window's thread may have to ask for its turn forty times, whenever it has called Qt.
_TURN_S = 0.0002
_THREADS = Path("/proc/self/task")


def lower_priority(niceness: int = BEHIND) -> None:
    """The calling thread and those that crunch numbers for it take time only when others do not want it."""
    sys.setswitchinterval(_TURN_S)
    lower_session_priority(CRUNCHING)
    lower_thread_priority(niceness)
    for thread in _number_crunchers():
        lower_thread_priority(FOR_THE_EYE, thread)


def _number_crunchers() -> list[int]:
    """The threads that NumPy started when it was imported: on the window's thread, hence as eager as that.

    They bear the name of the process, while the threads of Qt have names of their own.
    """
    thread_ids = []
    with contextlib.suppress(OSError):
        own_name = (_THREADS / str(os.getpid()) / "comm").read_text()
        for folder in _THREADS.iterdir():
            thread = int(folder.name)
            with contextlib.suppress(OSError):  # others may end at any time
                bears_it = thread != os.getpid() and (folder / "comm").read_text() == own_name
                if bears_it and os.getpriority(os.PRIO_PROCESS, thread) < FOR_THE_EYE:
                    thread_ids.append(thread)
    return thread_ids
