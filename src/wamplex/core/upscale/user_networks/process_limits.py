"""Limits that the process of a user's network sets for itself."""

from __future__ import annotations

import os
import resource
import threading
import time

_LOOK_S = 0.5


def limit_process(parent: int, memory: int, processor_seconds: int | None = None) -> None:
    """Take no more memory and processor time than that, and end with the parent.

    The limits are set in the child and not by the parent as it forks: Python that runs between fork and exec
    may wait for ever for a lock that another thread of the parent held. A parent-death signal would come as
    soon as the *thread* ends that started this process, so the parent is watched instead.

    Parameters
    ----------
    parent : process that started this one; it may be gone by now
    memory : bytes of address space
    processor_seconds : of all threads together, None for no limit
    """
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    if processor_seconds is not None:
        resource.setrlimit(resource.RLIMIT_CPU, (processor_seconds, processor_seconds))
    threading.Thread(target=_end_with, args=(parent,), daemon=True).start()


def _end_with(parent: int) -> None:
    while os.getppid() == parent:
        time.sleep(_LOOK_S)
    os._exit(1)
