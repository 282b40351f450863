"""Has pictures decoded by a worker process."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from itertools import count
from typing import Any, TypeVar

from wamplex.core.base.errors import Cancelled, UnreadablePictureError
from wamplex.core.base.progress import Progress
from wamplex.core.intake.decoder_choice import use_decoder
from wamplex.core.model.opened_source import OpenedSource
from wamplex.core.workflow.decoding.shared_picture import read_shared
from wamplex.core.workflow.subprocess.worker_client import WORKER_ENDED, WorkerClient

_LAST = ("decoded", "failed", "cancelled", "no memory", WORKER_ENDED)
T = TypeVar("T")


class _WorkerEndedError(Exception):
    """The process came to an end in the middle of its work."""


class DecodingClient:
    """Decodes in a process of its own, which begins when it is needed; safe to use from several threads."""

    def __init__(self) -> None:
        self._worker = WorkerClient("wamplex.core.workflow.decoding.decoding_worker")
        self._numbers = count()
        self._once_more = threading.Lock()

    def run(self, function: Callable[..., T], opened: OpenedSource, progress: Progress, *parts: Any) -> T:
        """Run a function that decodes, as `run_decoder` does.

        Parameters
        ----------
        function : called in the other process with the source, the progress and the parts
        opened : the source; the worker reads the same copy
        progress : receives the progress; cancelling it raises `Cancelled`
        parts : further arguments

        Returns
        -------
        What the function returns; its arrays are read-only.

        Raises
        ------
        UnreadablePictureError : when the file cannot be decoded, or crashes the decoder
        Cancelled : when ``progress`` is cancelled
        MemoryError : when the memory is full
        """
        with suppress(_WorkerEndedError):  # perhaps because of another picture that was decoded beside it
            return self._run(function, opened, progress, parts)
        with suppress(_WorkerEndedError), self._once_more:
            return self._run(function, opened, progress, parts)
        raise UnreadablePictureError(f"Wamplex crashed while reading {opened.name}. The file may be damaged.")

    def warm_up(self) -> None:
        """Begin the process, which takes half a second."""
        self._worker.warm_up()

    def close(self) -> None:
        """End the process."""
        self._worker.close()

    def _run(self, function: Callable[..., T], opened: OpenedSource, progress: Progress, parts: tuple[Any, ...]) -> T:
        memory = os.memfd_create("picture")
        try:
            here = f"/proc/{os.getpid()}/fd"
            order = ("decode", function, opened.source, f"{here}/{opened.path.name}", f"{here}/{memory}", *parts)
            for kind, *answer in self._worker.follow(next(self._numbers), order, progress):
                if kind == "reported":
                    progress.report(*answer)
                if kind in _LAST:
                    break
            if kind == "decoded":
                pickled, sizes = answer
                return read_shared(pickled, sizes, memory)  # type: ignore[no-any-return]
        finally:
            os.close(memory)
        if progress.cancelled or kind == "cancelled":
            raise Cancelled
        if kind == "failed":
            raise answer[0]
        if kind == "no memory":
            raise MemoryError
        raise _WorkerEndedError


@contextmanager
def decode_in_worker() -> Iterator[DecodingClient]:
    """Inside, every picture of this process is decoded by a worker process."""
    client = DecodingClient()
    use_decoder(client.run)
    try:
        yield client
    finally:
        use_decoder(None)
        client.close()
