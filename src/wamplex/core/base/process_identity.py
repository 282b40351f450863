"""Tells whether a process still runs, also after its number was given to another process."""

from __future__ import annotations

import os
from functools import lru_cache
from pathlib import Path

from wamplex.core.base.atomic_files import is_process_alive

_BOOT_ID = Path("/proc/sys/kernel/random/boot_id")  # proc(5): another one after each start of the machine
_START_TIME = 19  # of the fields of /proc/PID/stat that follow the name, from 0 (proc(5), field 22)


def process_identity(process: int | None = None) -> str:
    """Number, start time and boot of a process; no other process ever has the same.

    Parameters
    ----------
    process : its number; None for this process

    Returns
    -------
    The identity; the number alone where the system does not tell more.
    """
    number = os.getpid() if process is None else process
    start, boot = _start_time(number), _boot_id()
    return f"{number}-{start}-{boot}" if start and boot else str(number)


def is_identity_alive(identity: str) -> bool:
    """Whether the process of an identity still runs.

    Parameters
    ----------
    identity : see `process_identity`; a number alone counts as long as any process has it
    """
    number, _, rest = identity.partition("-")
    if not (number.isascii() and number.isdigit()) or not is_process_alive(int(number)):
        return False
    return not rest or process_identity(int(number)) in (identity, number)


def _start_time(process: int) -> str:
    try:
        text = Path(f"/proc/{process}/stat").read_text()
        return text.rpartition(")")[2].split()[_START_TIME]  # a name may hold spaces and brackets
    except (OSError, IndexError):
        return ""


@lru_cache(maxsize=1)
def _boot_id() -> str:
    try:
        return _BOOT_ID.read_text().strip()
    except OSError:
        return ""
