"""When the computer itself stood still: a plain process on each processor notes what it missed.

What shares its processors with others takes them away for some tens of milliseconds now and then, at times
for seconds. A turn of the window in which that happened tells nothing of the program.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

_ASKED_S = 0.001
# A plain process waits for others of the same eagerness for less than this.
_PAUSE_S = 0.010


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


def longest(turns: list[tuple[float, float]], pauses: list[tuple[float, float]]) -> tuple[float, float]:
    """Longest turn in milliseconds: of those without a pause of the machine, and of all."""
    alone = [turn for turn in turns if not any(b < turn[1] and e > turn[0] for b, e in pauses)]
    of_alone, of_all = (
        max((1000 * (end - begun) for begun, end in some), default=0.0) for some in (alone, turns)
    )
    return of_alone, of_all


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
