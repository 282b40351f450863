"""Makes the files of jobs for the program; a process of its own.

``python -m wamplex.core.jobs.serve DESCRIPTOR JOURNAL OWNER`` takes orders from a connection on a file
descriptor and says how far each one is. When the program is gone it ends at once: the journal knows what was
not finished, as if both had ended together.
"""

from __future__ import annotations

import os
import sys
import threading
from collections.abc import Callable
from contextlib import suppress
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from wamplex.core.assets import own_assets
from wamplex.core.errors import Cancelled
from wamplex.core.jobs.job import Job
from wamplex.core.jobs.journal import Journal
from wamplex.core.jobs.run import failure_words, run
from wamplex.core.niceness import BEHIND, CRUNCHING, be_nice
from wamplex.core.progress import Progress
from wamplex.core.spare_memory import spare_memory, spare_time
from wamplex.core.upscale.execution import Execution, use_execution
from wamplex.core.upscale.sessions import let_sessions_stand_back

# After so long without an order its networks need not stay in memory.
_IDLE_S = 60.0
# Where Linux runs out of memory, this process is to go, and not the window with all that was decided in it.
_OUT_OF_MEMORY, _FIRST_TO_GO = Path("/proc/self/oom_score_adj"), "500"


class _Server:
    """Takes orders, and does each in a thread of its own."""

    def __init__(self, program: Connection, journal: Journal) -> None:
        self._program, self._journal = program, journal
        self._sending = threading.Lock()
        self._running: dict[int, Progress] = {}

    def serve(self) -> None:
        """Until it is told to end, or nothing came for long."""
        acts: dict[str, Callable[..., None]] = {
            "make": self._make,
            "pause": self._pause,
            "cancel": self._cancel,
        }
        while True:
            if not self._program.poll(_IDLE_S):
                if not self._running:
                    return
                continue
            kind, number, *what = self._program.recv()
            if kind == "end":
                return
            acts[kind](number, *what)

    def _make(self, number: int, job: Job, at_once: int, execution: Execution, parts: list[bytes]) -> None:
        use_execution(execution)
        for data in parts:
            own_assets().put(data)
        progress = self._running[number] = Progress(
            lambda fraction, words: self._say("reported", number, fraction, words)
        )
        threading.Thread(target=self._do, args=(job, progress, at_once)).start()

    def _pause(self, number: int, paused: bool) -> None:
        if number in self._running:
            self._running[number].pause(paused)

    def _cancel(self, number: int, held: bool) -> None:
        if held:
            self._journal.hold()
        if number in self._running:
            self._running[number].cancel()

    def _do(self, job: Job, progress: Progress, at_once: int) -> None:
        said: tuple[Any, ...]
        self._say("begun", job.number)
        try:
            with spare_time():
                said = ("made", job.number, run(self._journal, job, progress, at_once=at_once))
        except Cancelled:
            said = ("cancelled", job.number)
        except Exception as error:
            said = ("failed", job.number, failure_words(error))
        del self._running[job.number]
        self._say(*said)

    def _say(self, *message: Any) -> None:
        with self._sending, suppress(OSError):  # where the program is gone, nobody waits for it
            self._program.send(message)


def main() -> None:
    """Serve until the program is done with it, or gone."""
    descriptor, journal, owner = int(sys.argv[1]), Path(sys.argv[2]), int(sys.argv[3])
    be_nice(BEHIND)
    let_sessions_stand_back(CRUNCHING)
    spare_memory()
    with suppress(OSError):  # elsewhere, or forbidden
        _OUT_OF_MEMORY.write_text(_FIRST_TO_GO)
    with suppress(EOFError, OSError):
        _Server(Connection(descriptor), Journal(journal, owner)).serve()
    os._exit(0)


if __name__ == "__main__":
    main()
