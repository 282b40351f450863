"""Recently used decoded pictures, limited by memory."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Collection
from concurrent.futures import Future, TimeoutError

import psutil

from wamplex.core.base.errors import Cancelled
from wamplex.core.base.progress import Progress
from wamplex.core.intake.read import read_picture
from wamplex.core.model.opened_source import open_source
from wamplex.core.model.picture import Picture
from wamplex.core.model.source import Source

_SHARE_OF_MEMORY = 0.25
_MOST_BYTES = 4_000_000_000
_LOOK_S = 0.05


class PictureCache:
    """Decoded pictures; safe to use from any thread.

    Parameters
    ----------
    budget : bytes that are kept; a single picture may be larger. None for a quarter of this computer's
        memory, at most 4 GB
    """

    def __init__(self, budget: int | None = None) -> None:
        limit = int(psutil.virtual_memory().total * _SHARE_OF_MEMORY)
        self._budget = min(limit, _MOST_BYTES) if budget is None else budget
        self._cached: OrderedDict[Source, Picture] = OrderedDict()
        self._pending: dict[Source, Future[Picture]] = {}
        self._lock = threading.Lock()

    def keep_up_to(self, gigabytes: float) -> None:
        """Another budget; 0 for the usual one.

        Parameters
        ----------
        gigabytes : limit for decoded pictures; 0 for a quarter of the memory, at most 4
        """
        budget = int(psutil.virtual_memory().total * _SHARE_OF_MEMORY)
        self._budget = int(gigabytes * 1e9) if gigabytes > 0 else min(budget, _MOST_BYTES)

    def keep_only(self, sources: Collection[Source]) -> None:
        """Drop the pictures of all other sources.

        Parameters
        ----------
        sources : the source files that are still in use
        """
        with self._lock:
            for source in [source for source in self._cached if source not in sources]:
                del self._cached[source]

    @property
    def cached_bytes(self) -> int:
        """Memory of all cached pictures, in bytes."""
        with self._lock:
            return self._sum()

    def get(self, source: Source, progress: Progress | None = None) -> Picture:
        """The picture, decoded now unless it is at hand; the ones used longest ago make room.

        Parameters
        ----------
        source : the source file
        progress : receives the progress; cancelling it raises `Cancelled`

        Raises
        ------
        UnreadablePictureError : when the file cannot be decoded
        SourceChangedError : when the file is another by now
        Cancelled : when ``progress`` is cancelled
        """
        picture = self._cached_picture(source, progress or Progress())
        with self._lock:
            self._cached[source] = picture
            self._cached.move_to_end(source)
            while self._sum() > self._budget and len(self._cached) > 1:
                self._cached.popitem(last=False)
        return picture

    def _cached_picture(self, source: Source, progress: Progress) -> Picture:
        """At hand, or decoded outside of the lock; who asks for what is being decoded waits for that."""
        while True:
            with self._lock:
                if source in self._cached:
                    return self._cached[source]
                coming = self._pending.get(source)
                if coming is None:
                    mine = self._pending[source] = Future()
            if coming is None:
                return self._decode(source, mine, progress)
            try:
                return _waited(coming, progress)
            except Cancelled:
                progress.check()  # the other's work was cancelled, not this

    def _decode(self, source: Source, coming: Future[Picture], progress: Progress) -> Picture:
        try:
            picture = read_picture(open_source(source), progress)
            source.check()  # what was changed meanwhile must not be shown as if it were there still
        except BaseException as error:
            coming.set_exception(error)
            raise
        else:
            coming.set_result(picture)
            return picture
        finally:
            with self._lock:
                del self._pending[source]

    def _sum(self) -> int:
        return sum(_bytes(picture) for picture in self._cached.values())


def _bytes(picture: Picture) -> int:
    raw = picture.raw
    of_raw = 0 if raw is None else raw.developed.nbytes + (raw.mosaic.values.nbytes if raw.mosaic else 0)
    return picture.pixels.nbytes + (0 if picture.alpha is None else picture.alpha.nbytes) + of_raw


def _waited(coming: Future[Picture], progress: Progress) -> Picture:
    while True:
        progress.check()
        try:
            return coming.result(_LOOK_S)
        except TimeoutError:
            continue
