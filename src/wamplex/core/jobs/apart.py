"""Has the files of jobs made by another process: what takes time, memory or the program down stays there."""

from __future__ import annotations

import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from multiprocessing import Pipe
from queue import Empty, SimpleQueue
from typing import Any, Protocol

from wamplex.core.assets import own_assets
from wamplex.core.deliver.deliver import Delivered
from wamplex.core.errors import Cancelled, DeliveryError
from wamplex.core.jobs.job import Job, State
from wamplex.core.jobs.journal import Journal
from wamplex.core.jobs.run import CANCELLED_WORDS
from wamplex.core.progress import Progress
from wamplex.core.upscale.execution import current_execution

_LOOK_S = 0.05
_PATIENCE_S = 30.0
_CRASHED = (
    "The part of Wamplex that makes files came to an end in the middle of this one, perhaps for want of "
    "memory. Close others and try again."
)


class Maker(Protocol):
    """What makes the files of jobs; safe to use from several threads at once."""

    def make(self, job: Job, progress: Progress, at_once: int) -> Delivered:
        """Make the file of a job; as `run.run` does."""

    def warm_up(self) -> None:
        """A file may be wanted soon."""

    def close(self) -> None:
        """No more files are wanted."""


class Apart:
    """Makes files in a process of its own, begun when it is needed; it ends by itself after idle time.

    Python lets one thread work at a time: with two files being made in the window's own process, the window
    waited for its turn for up to 50 ms.
    """

    def __init__(self, journal: Journal) -> None:
        self._journal = journal
        self._lock = threading.Lock()
        self._other: _Other | None = None

    def make(self, job: Job, progress: Progress, at_once: int) -> Delivered:
        """Make the file of a job; as `run.run` does.

        Raises
        ------
        DeliveryError : with the words for whatever stopped it there
        Cancelled : when ``progress`` is cancelled
        """
        parts = [own_assets().get(ref) for ref in job.recipe.finish.parts]
        order = (job, at_once, current_execution(), parts)
        for _ in range(2):  # one that waited for work may end the moment this comes
            with self._running().listening(job.number) as said:
                done = self._followed(said, job, order, progress)
            if done is not None:
                return done
        raise self._crashed(job)

    def warm_up(self) -> None:
        """Begin the process, which takes a second."""
        self._running()

    def close(self) -> None:
        """End the process."""
        with self._lock:
            other, self._other = self._other, None
        if other is not None:
            other.close()

    def _running(self) -> _Other:
        with self._lock:
            if self._other is None or self._other.ended:
                self._other = _Other(self._journal)
            return self._other

    def _followed(
        self, said: _Line, job: Job, order: tuple[Any, ...], progress: Progress
    ) -> Delivered | None:
        """What came of an order; None when the process ended before it began with it."""
        said.tell("make", *order)
        begun = False
        while True:
            said.pass_on(progress, held=self._journal.held)
            kind, *what = said.next()
            begun = begun or kind not in ("", "ended")
            if kind == "reported":
                progress.report(*what)
            elif kind == "made":
                return what[0]  # type: ignore[no-any-return]
            elif kind == "cancelled":
                raise Cancelled
            elif kind == "failed":
                raise DeliveryError(*what)
            elif kind == "ended" and progress.cancelled:
                self._tidy(job, State.CANCELLED, CANCELLED_WORDS)
                raise Cancelled
            elif kind == "ended" and begun:
                raise self._crashed(job)
            elif kind == "ended":
                return None

    def _crashed(self, job: Job) -> DeliveryError:
        self._tidy(job, State.FAILED, _CRASHED)
        return DeliveryError(_CRASHED)

    def _tidy(self, job: Job, state: State, words: str) -> None:
        for path in self._journal.partials(job.number):
            path.unlink(missing_ok=True)
        self._journal.update(job.number, state, words)


class _Line:
    """What is said to the process about one job, and what it answers."""

    def __init__(self, other: _Other, number: int) -> None:
        self._other, self._number = other, number
        self._paused, self._cancelled_at = False, 0.0
        self.coming: SimpleQueue[tuple[Any, ...]] = SimpleQueue()

    def tell(self, kind: str, *what: Any) -> None:
        self._other.send((kind, self._number, *what))

    def pass_on(self, progress: Progress, *, held: bool) -> None:
        """Say that it was paused, goes on, or is not wanted any more; what does not obey is ended."""
        if progress.paused != self._paused:
            self._paused = not self._paused
            self.tell("pause", self._paused)
        if progress.cancelled and not self._cancelled_at:
            self._cancelled_at = time.monotonic()
            self.tell("cancel", held)
        elif progress.cancelled and time.monotonic() - self._cancelled_at > _PATIENCE_S:
            self._other.kill()

    def next(self) -> tuple[Any, ...]:
        """What it said next; an empty kind when it said nothing for a moment."""
        try:
            return self.coming.get(timeout=_LOOK_S)
        except Empty:
            return ("",)


class _Other:
    """The process, and the thread that listens to it."""

    def __init__(self, journal: Journal) -> None:
        self._ours, theirs = Pipe()
        self._sending, self._lines = threading.Lock(), dict[int, _Line]()
        self.ended = False
        words = (str(theirs.fileno()), str(journal.path), str(journal.owner))
        self._process = subprocess.Popen(
            [sys.executable, "-m", "wamplex.core.jobs.serve", *words],
            stdin=subprocess.DEVNULL,
            pass_fds=(theirs.fileno(),),
            # Ctrl+C is for the program, which then ends it. In a session of its own, niceness would not count
            # between the two: Linux first divides the processor among sessions.
            process_group=0,
        )
        theirs.close()
        self._listener = threading.Thread(target=self._listen, daemon=True)
        self._listener.start()

    @contextmanager
    def listening(self, number: int) -> Iterator[_Line]:
        """Hear of a job while inside."""
        line = self._lines[number] = _Line(self, number)
        if self.ended:
            line.coming.put(("ended",))
        try:
            yield line
        finally:
            del self._lines[number]

    def send(self, message: tuple[Any, ...]) -> None:
        """Say something, unless nobody is there: the listener notices that."""
        with self._sending, suppress(OSError):
            self._ours.send(message)

    def close(self) -> None:
        """End it: it does so once nobody speaks to it any more."""
        self.send(("end", 0))
        try:
            self._process.wait(_PATIENCE_S)
        except subprocess.TimeoutExpired:
            self.kill()
        self._listener.join()
        self._ours.close()

    def kill(self) -> None:
        """End it, whatever it does."""
        self._process.kill()

    def _listen(self) -> None:
        with suppress(OSError, EOFError):
            while True:
                kind, number, *what = self._ours.recv()
                line = self._lines.get(number)
                if line is not None:
                    line.coming.put((kind, *what))
        self.ended = True
        for line in list(self._lines.values()):
            line.coming.put(("ended",))
        self._process.wait()
