"""When the computer itself stood still: a plain process on each processor notes what it missed.

What shares its processors with others takes them away for some tens of milliseconds now and then, at times
for seconds. A turn of the window in which that happened tells nothing of the program. What is taken away in
smaller pieces is seen in the turn itself: a thread that did not sleep has worked, or waited for a processor.
"""

from __future__ import annotations

import os
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path

_ASKED_S = 0.001
# A plain process waits for others of the same eagerness for less than this.
_PAUSE_S = 0.010
_SCHEDULED = Path("/proc/thread-self/schedstat")


class MachinePauses:
    """Watches from the beginning until it is told to end, on every processor at once."""

    def __init__(self) -> None:
        self._folder = tempfile.TemporaryDirectory()
        self._files = [Path(self._folder.name) / str(n) for n in sorted(os.sched_getaffinity(0))]
        self._watching = [
            subprocess.Popen([sys.executable, "-m", __name__, file.name, str(file)]) for file in self._files
        ]

    def end(self) -> None:
        """Watch no more; what was seen is gone."""
        for process in self._watching:
            process.kill()
            process.wait()
        self._folder.cleanup()

    def seen(self) -> list[tuple[float, float]]:
        """Beginning and end of each pause, as ``time.perf_counter`` counts."""
        lines = [line for file in self._files if file.exists() for line in file.read_text().splitlines()]
        pairs = [line.split() for line in lines]
        return [(float(pair[0]), float(pair[1])) for pair in pairs if len(pair) == 2]


class Turn:
    """One turn of the calling thread, from now on.

    Attributes
    ----------
    begun, end : as ``time.perf_counter`` counts
    worked_s : the thread's time on a processor
    taken_s : what the machine took away, as far as it is known: all that was neither work nor waiting for a
        processor, of a turn in which the thread did not sleep
    """

    def __init__(self) -> None:
        self._slept, self._waited, self._worked = _slept(), _waited_s(), time.thread_time()
        self.begun = self.end = time.perf_counter()
        self.worked_s = self.taken_s = 0.0

    def over(self) -> Turn:
        """The turn has ended."""
        self.end = time.perf_counter()
        self.worked_s = time.thread_time() - self._worked
        if _SCHEDULED.exists() and _slept() == self._slept:
            known = self.worked_s + _waited_s() - self._waited
            self.taken_s = max(0.0, self.end - self.begun - known)
        return self


def longest(turns: list[Turn], pauses: list[tuple[float, float]]) -> tuple[float, float, float]:
    """In milliseconds: the longest turn but for what the machine took, the longest of all, the most work."""
    alone = [turn for turn in turns if not any(b < turn.end and e > turn.begun for b, e in pauses)]
    of_alone = max((turn.end - turn.begun - turn.taken_s for turn in alone), default=0.0)
    of_all = max((turn.end - turn.begun for turn in turns), default=0.0)
    work = max((turn.worked_s for turn in turns), default=0.0)
    return 1000 * of_alone, 1000 * of_all, 1000 * work


def _slept() -> int:
    return resource.getrusage(resource.RUSAGE_THREAD).ru_nvcsw


def _waited_s() -> float:
    """Seconds in which the calling thread could have worked and had no processor; 0 where nobody counts."""
    return int(_SCHEDULED.read_text().split()[1]) / 1e9 if _SCHEDULED.exists() else 0.0


def _watch(processor: int, file: Path) -> None:
    os.sched_setaffinity(0, {processor})
    with file.open("w", buffering=1) as out:
        while True:
            begun = time.perf_counter()
            time.sleep(_ASKED_S)
            end = time.perf_counter()
            if end - begun > _PAUSE_S:
                out.write(f"{begun} {end}\n")


if __name__ == "__main__":
    _watch(int(sys.argv[1]), Path(sys.argv[2]))
