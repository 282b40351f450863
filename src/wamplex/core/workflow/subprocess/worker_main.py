"""The worker's end: take orders, run them, report progress.

When the program is gone it ends at once, as if both had ended together.
"""

from __future__ import annotations

import os
import sys
import threading
from collections.abc import Callable, Mapping
from contextlib import suppress
from functools import partial
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from wamplex.core.base.malloc import tune_malloc
from wamplex.core.base.progress import Progress
from wamplex.core.base.thread_priority import CRUNCHING
from wamplex.core.upscale.networks.sessions import lower_session_priority

# After so long without an order its networks need not stay in memory.
_IDLE_S = 60.0
# Where Linux runs out of memory, this process is to go, and not the window with all that was decided in it.
_OUT_OF_MEMORY, _FIRST_TO_GO = Path("/proc/self/oom_score_adj"), "500"
Say = Callable[..., None]  # the kind of what is said, and whatever belongs to it
Work = Callable[..., None]  # of `Say`, `Progress`, and what came with the order


def run_worker(
    works: Mapping[str, Work], on_cancel: Callable[..., object] = lambda: None, *, idle_s: float | None = _IDLE_S
) -> None:
    """Do what is ordered, each in a thread of its own, until the program is done with it, or gone.

    Parameters
    ----------
    works : by the kinds of orders that name them
    on_cancel : called with the data that comes along when an order is cancelled
    idle_s : ends after so many seconds without an order; None for never
    """
    lower_session_priority(CRUNCHING)
    tune_malloc()
    with suppress(OSError):  # elsewhere, or forbidden
        _OUT_OF_MEMORY.write_text(_FIRST_TO_GO)
    with suppress(EOFError, OSError):
        _Server(Connection(int(sys.argv[1])), works, on_cancel).serve(idle_s)
    os._exit(0)


class _Server:
    """Takes orders, and does each in a thread of its own."""

    def __init__(self, program: Connection, works: Mapping[str, Work], on_cancel: Callable[..., object]) -> None:
        self._program, self._actions_under_way, self._on_cancel = program, works, on_cancel
        self._sending = threading.Lock()
        self._running: dict[int, Progress] = {}

    def serve(self, idle_s: float | None) -> None:
        """Serve until the connection closes or the idle time is over."""
        while True:
            if not self._program.poll(idle_s):
                if not self._running:
                    return
                continue
            kind, number, *parts = self._program.recv()
            if kind == "end":
                return
            if kind == "pause":
                self._pause(number, *parts)
            elif kind == "cancel":
                self._cancel(number, *parts)
            else:
                self._begin(self._actions_under_way[kind], number, parts)

    def _begin(self, act: Work, number: int, parts: list[Any]) -> None:
        progress = self._running[number] = Progress(
            lambda fraction, words: self._say(number, "reported", fraction, words)
        )
        threading.Thread(target=self._do, args=(act, number, progress, parts)).start()

    def _pause(self, number: int, paused: bool) -> None:
        if number in self._running:
            self._running[number].pause(paused)

    def _cancel(self, number: int, *parts: Any) -> None:
        self._on_cancel(*parts)
        if number in self._running:
            self._running[number].cancel()

    def _do(self, act: Work, number: int, progress: Progress, parts: list[Any]) -> None:
        self._say(number, "begun")
        try:
            act(partial(self._say, number), progress, *parts)
        finally:
            del self._running[number]

    def _say(self, number: int, kind: str, *parts: Any) -> None:
        with self._sending, suppress(OSError):  # where the program is gone, nobody waits for it
            self._program.send((kind, number, *parts))
