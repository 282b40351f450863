"""Reads files beside the window: headers and thumbnails of all, pixels of the ones being worked on."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QMutex, QMutexLocker, QObject, QRunnable, QThreadPool, Signal

from wamplex.app.models.tray import Entry
from wamplex.core.errors import UnreadablePictureError
from wamplex.core.intake.read import read_picture, read_small
from wamplex.core.picture import Picture

THUMBNAIL_PX = 900
_PICTURES_KEPT = 2


class Loader(QObject):
    """Looks at new tray entries; signals carry the entry's number and what was found."""

    looked = Signal(int, object, object)
    failed = Signal(int, str)

    def __init__(self) -> None:
        super().__init__()
        self._pool = QThreadPool()
        self._pool.setMaxThreadCount(2)

    def look(self, entry: Entry) -> None:
        """Read header and thumbnail."""
        number, path = entry.number, entry.path

        def work() -> None:
            try:
                thumbnail, found = read_small(path, THUMBNAIL_PX)
            except UnreadablePictureError as error:
                self.failed.emit(number, str(error))
            else:
                self.looked.emit(number, found, thumbnail)

        self._pool.start(_Work(work))

    def finish(self) -> None:
        """Wait for what is under way."""
        self._pool.clear()
        self._pool.waitForDone()


class PictureStore:
    """Decoded pictures, the last few; safe to use from any worker."""

    def __init__(self) -> None:
        self._kept: OrderedDict[Path, Picture] = OrderedDict()
        self._lock = QMutex()

    def get(self, path: Path) -> Picture:
        """The picture, decoded now unless it is at hand.

        Raises
        ------
        UnreadablePictureError : when the file cannot be decoded
        """
        with QMutexLocker(self._lock):
            if path in self._kept:
                self._kept.move_to_end(path)
                return self._kept[path]
            picture = read_picture(path)
            self._kept[path] = picture
            while len(self._kept) > _PICTURES_KEPT:
                self._kept.popitem(last=False)
            return picture


class _Work(QRunnable):
    def __init__(self, work: Callable[[], None]) -> None:
        super().__init__()
        self._work = work

    def run(self) -> None:
        self._work()
