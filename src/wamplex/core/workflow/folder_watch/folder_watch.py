"""Watches a folder: which pictures are due, and what becomes of each; no picture ends the watch."""

from __future__ import annotations

import fcntl
import os
import time
from collections.abc import Callable
from pathlib import Path

from wamplex.core.base.errors import CannotWorkNowError, UnreadablePictureError, WamplexError
from wamplex.core.base.progress import Progress
from wamplex.core.model.source import Source
from wamplex.core.workflow.folder_watch.arrivals import Arrivals
from wamplex.core.workflow.folder_watch.process_arrival import ArrivalResult, WatchOptions, enlarge_one
from wamplex.core.workflow.queue.journal import Journal

FIRST_PAUSE_S, LONGEST_PAUSE_S = 5.0, 300.0


class FolderWatch:
    """One watch of one folder; a second one is refused, in this and in every other program.

    Parameters
    ----------
    folder : where pictures arrive
    options : what is done to each picture
    journal : the list of jobs
    clock : seconds that only go forward

    Raises
    ------
    WamplexError : when the folder is missing, or watched already
    """

    def __init__(
        self, folder: Path, options: WatchOptions, journal: Journal, clock: Callable[[], float] = time.monotonic
    ) -> None:
        self._options, self._journal, self._clock = options, journal, clock
        self._arrivals = Arrivals(folder)
        self._lock = _lock_folder(folder)
        self._settled: set[Source] = set()  # could not be moved away
        self._later: dict[Path, tuple[float, float]] = {}  # when to try again, and the pause before that

    def due(self) -> list[Path]:
        """Pictures that have arrived completely and may be tried now."""
        now = self._clock()
        complete = [path for path in self._arrivals.complete() if not self._is_settled(path)]
        self._later = {path: state for path, state in self._later.items() if path in complete}
        return [path for path in complete if self._later.get(path, (now, 0.0))[0] <= now]

    @property
    def finished(self) -> bool:
        """Whether no picture is left that could be enlarged now."""
        return not self._arrivals.waiting or all(
            path in self._later or self._is_settled(path) for path in self._arrivals.files
        )

    @property
    def deferred(self) -> int:
        """Number of pictures that could not be enlarged yet and are tried again."""
        return len(self._later)

    def process(self, path: Path, progress: Progress) -> ArrivalResult:
        """Enlarge a picture.

        Parameters
        ----------
        path : one of `due`
        progress : receives the progress; cancelling it raises `Cancelled`

        Returns
        -------
        The file, and what of the recipe did not fit the picture.

        Raises
        ------
        WamplexError : with the reason, and what became of the picture
        Cancelled : when ``progress`` is cancelled
        """
        try:
            result = enlarge_one(path, self._options, self._journal, progress)
        except CannotWorkNowError as error:
            pause = min(2 * self._later.get(path, (0.0, FIRST_PAUSE_S / 2))[1], LONGEST_PAUSE_S)
            self._later[path] = (self._clock() + pause, pause)
            raise WamplexError(f"{error} It stays here and is tried again in {pause:.0f} s.") from error
        except WamplexError:
            self._settle(path)
            raise
        self._settle(path)
        return result

    def _settle(self, path: Path) -> None:
        """It is done with, also where it could not be moved."""
        self._later.pop(path, None)
        if path.exists():
            self._settled.add(Source.of(path))

    def _is_settled(self, path: Path) -> bool:
        try:
            return bool(self._settled) and Source.of(path) in self._settled
        except UnreadablePictureError:
            return False


def _lock_folder(folder: Path) -> int:
    """Lock a folder until this process ends, however it ends."""
    try:
        descriptor = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    except OSError as error:
        raise WamplexError(f"{folder} cannot be watched: {(error.strerror or str(error)).lower()}.") from error
    try:
        fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        os.close(descriptor)
        raise WamplexError(f"{folder} is watched already. End the other watch first.") from None
    except OSError:
        pass  # some network folders know no locks
    return descriptor
