"""Detects which files of a folder are complete."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

# A file whose size and time have been the same for so long is taken for complete.
REST_S = 3.0


class Arrivals:
    """Looks at a folder again and again.

    Parameters
    ----------
    clock, wall : seconds that only go forward, and those that files are dated by
    """

    def __init__(
        self,
        folder: Path,
        clock: Callable[[], float] = time.monotonic,
        wall: Callable[[], float] = time.time,
    ) -> None:
        self._folder = folder
        self._clock, self._wall = clock, wall
        self._visible: dict[Path, tuple[int, int, float]] = {}  # size, time of change, since when both hold

    def complete(self) -> list[Path]:
        """Files that have been at rest, or were moved in whole, by name; hidden ones are passed over."""
        now, files = self._clock(), []
        here: dict[Path, tuple[int, int, float]] = {}
        for path in sorted(self._listed()):
            if path.name.startswith(".") or not path.is_file():
                continue
            try:
                status = path.stat()
            except OSError:
                continue  # taken away while looking, or out of reach
            same = (status.st_size, status.st_mtime_ns)
            state = self._visible.get(path)
            since = state[2] if state is not None and state[:2] == same else now
            here[path] = (*same, since)
            # Its own time may be that of the camera; that of its entry is when it was written or moved in.
            at_rest = self._wall() - max(status.st_mtime, status.st_ctime) > REST_S
            if now - since >= REST_S or at_rest:
                files.append(path)
        self._visible = here
        return files

    def _listed(self) -> list[Path]:
        """List the files; none while the folder is away."""
        try:
            return list(self._folder.iterdir())
        except OSError:
            return []

    @property
    def files(self) -> tuple[Path, ...]:
        """The files of the last look."""
        return tuple(self._visible)

    @property
    def waiting(self) -> bool:
        """Whether there were files at the last look."""
        return bool(self._visible)
