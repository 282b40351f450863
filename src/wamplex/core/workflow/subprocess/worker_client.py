"""The program's end of a worker process: start it, send orders, read progress, end it."""

from __future__ import annotations

import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from multiprocessing import Pipe
from queue import Empty, SimpleQueue
from typing import Any

from wamplex.core.base.progress import Progress
from wamplex.core.base.thread_priority import BEHIND, lower_thread_priority

_LOOK_S = 0.05
_PATIENCE_S = 30.0
Message = tuple[Any, ...]
WORKER_ENDED = "ended"


class WorkerClient:
    """Keeps a process at hand that runs a module of this program; safe to use from several threads.

    Python lets one thread of a process work at a time: what is done in the window's own process makes the
    window wait for its turn, for up to 50 ms.

    Parameters
    ----------
    module : whose ``main`` calls `serving.serve`
    text : that it is given on its command line
    """

    def __init__(self, module: str, *text: str) -> None:
        self._command = (module, *text)
        self._lock = threading.Lock()
        self._process: _Process | None = None

    def follow(
        self,
        number: int,
        order: Message,
        progress: Progress,
        on_cancel: Callable[[], Message] = lambda: (),
    ) -> Iterator[Message]:
        """Messages of the process for an order; the last is ``("ended",)`` when it crashes.

        Parameters
        ----------
        number : by which the order is known from others under way
        order : the request and its data; everything must be picklable
        progress : passed on when it is paused or cancelled
        on_cancel : data sent along when the work is cancelled
        """
        for _ in range(2):  # one that waited for work may end the moment this comes
            with self._running().listening(number) as line:
                line.tell(*order)
                begun = False
                while True:
                    line.pass_on(progress, on_cancel)
                    message = line.next()
                    if message == (WORKER_ENDED,) and not begun and not progress.cancelled:
                        break
                    if message:
                        begun = True
                        yield message
                    if message == (WORKER_ENDED,):
                        return
        yield (WORKER_ENDED,)

    def warm_up(self) -> None:
        """Begin the process, which takes a second."""
        self._running()

    def close(self) -> None:
        """End the process."""
        with self._lock:
            process, self._process = self._process, None
        if process is not None:
            process.close()

    def _running(self) -> _Process:
        with self._lock:
            if self._process is None or self._process.ended:
                self._process = _Process(*self._command)
            return self._process


class _Line:
    """What is said to the process about one order, and what it answers."""

    def __init__(self, process: _Process, number: int) -> None:
        self._process, self._number = process, number
        self._paused, self._cancelled_at = False, 0.0
        self.incoming: SimpleQueue[Message] = SimpleQueue()

    def tell(self, kind: str, *parts: Any) -> None:
        self._process.send((kind, self._number, *parts))

    def pass_on(self, progress: Progress, on_cancel: Callable[[], Message]) -> None:
        """Pause, resume or cancel the work; a worker that does not obey is killed."""
        if progress.paused != self._paused:
            self._paused = not self._paused
            self.tell("pause", self._paused)
        if progress.cancelled and not self._cancelled_at:
            self._cancelled_at = time.monotonic()
            self.tell("cancel", *on_cancel())
        elif progress.cancelled and time.monotonic() - self._cancelled_at > _PATIENCE_S:
            self._process.kill()

    def next(self) -> Message:
        """Next message of the process; none after a short wait."""
        try:
            return self.incoming.get(timeout=_LOOK_S)
        except Empty:
            return ()


class _Process:
    """The process, and the thread that listens to it."""

    def __init__(self, module: str, *text: str) -> None:
        self._ours, theirs = Pipe()
        self._sending, self._lines = threading.Lock(), dict[int, _Line]()
        self.ended = False
        self._process = subprocess.Popen(
            [sys.executable, "-m", module, str(theirs.fileno()), *text],
            stdin=subprocess.DEVNULL,
            pass_fds=(theirs.fileno(),),
            # Ctrl+C is for the program, which then ends it. In a session of its own, niceness would not count
            # between the two: Linux first divides the processor among sessions.
            process_group=0,
        )
        theirs.close()
        lower_thread_priority(BEHIND, self._process.pid)  # from here, since loading its libraries takes a second
        self._listener = threading.Thread(target=self._listen, daemon=True)
        self._listener.start()

    @contextmanager
    def listening(self, number: int) -> Iterator[_Line]:
        """Hear of an order while inside."""
        line = self._lines[number] = _Line(self, number)
        if self.ended:
            line.incoming.put((WORKER_ENDED,))
        try:
            yield line
        finally:
            del self._lines[number]

    def send(self, message: Message) -> None:
        """Say something, unless nobody is there: the listener notices that."""
        with self._sending, suppress(OSError):
            self._ours.send(message)

    def close(self) -> None:
        """Close the connection; the worker then ends by itself."""
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
        try:
            with suppress(OSError, EOFError):
                while True:
                    kind, number, *parts = self._ours.recv()
                    line = self._lines.get(number)
                    if line is not None:
                        line.incoming.put((kind, *parts))
        finally:  # also when what came cannot be understood: nobody shall wait for more
            self.ended = True
            for line in list(self._lines.values()):
                line.incoming.put((WORKER_ENDED,))
        self._process.wait()
