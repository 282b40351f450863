"""Reads files beside the window: headers and thumbnails of all, pixels of the ones being worked on."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import cache, partial
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from wamplex.app.workers.thread_priority import lower_priority
from wamplex.core.as_developed import as_developed
from wamplex.core.errors import Cancelled, SourceChangedError, UnreadablePictureError, user_message
from wamplex.core.intake.read import read_small
from wamplex.core.intake.store import PictureStore
from wamplex.core.measure.condition import condition_of, measure_condition
from wamplex.core.measure.cutout import cutout
from wamplex.core.measure.findings import RowKey
from wamplex.core.measure.sample import Rgb, Sample
from wamplex.core.picture import Picture
from wamplex.core.progress import Progress
from wamplex.core.raw.development import Development
from wamplex.core.recipe import Recipe
from wamplex.core.source import Source
from wamplex.core.travelling.alike import taken

THUMBNAIL_PX = 900


class Loader(QObject):
    """Looks at new tray entries, then measures them; signals name the file and what was found."""

    looked = Signal(object, object, object)  # Probe, thumbnail, Taken or None
    failed = Signal(object, str)  # path, sentence
    measured = Signal(object, object, object, float)  # Source, Condition so far, cut-outs, seconds
    all_measured = Signal(object)  # Source
    broke = Signal(str)  # a sentence about a fault of the program

    def __init__(self, store: PictureStore) -> None:
        super().__init__()
        self._store = store
        self._pool = QThreadPool()
        self._pool.setMaxThreadCount(2)
        self._progress = Progress()
        self._measuring = QThreadPool()
        self._measuring.setMaxThreadCount(1)

    def look(self, path: Path) -> None:
        """Read header and thumbnail of a file."""

        def work() -> None:
            try:
                thumbnail, found = read_small(path, THUMBNAIL_PX)
            except Exception as error:
                self.failed.emit(
                    path, user_message(error, "There is not enough memory to read this picture.")
                )
            else:
                self.looked.emit(found, thumbnail, taken(path))
                self._measuring.start(_Work(partial(measure, found.source)))

        def measure(source: Source) -> None:
            lower_priority()
            try:
                self._measure(source, self._store.borrow(source, self._progress))
            except (UnreadablePictureError, SourceChangedError, MemoryError, Cancelled):
                return  # said where the picture is shown
            except Exception as error:
                self.broke.emit(user_message(error, ""))

        self._pool.start(_Work(work))

    def measure_again(self, source: Source, development: Development) -> None:
        """Measure a raw file once more, as it is developed now: its noise is seen otherwise."""

        def measure() -> None:
            lower_priority()
            try:
                picture = self._store.borrow(source, self._progress)
                self._measure(source, as_developed(picture, Recipe(development=development), self._progress))
            except (UnreadablePictureError, SourceChangedError, MemoryError, Cancelled):
                return  # said where the picture is shown
            except Exception as error:
                self.broke.emit(user_message(error, ""))

        self._measuring.start(_Work(measure))

    def _measure(self, source: Source, picture: Picture) -> None:
        """Row by row, each shown as soon as it is there."""
        begun = time.monotonic()
        sample = Sample(picture)
        for condition in measure_condition(picture, self._progress):
            made: dict[RowKey, Rgb] = {}
            # The size needs no measurement: it comes with the first.
            keys: tuple[RowKey, ...] = condition.measured[-1:]
            for key in keys if len(condition.measured) > 1 else (*keys, "size"):
                shown = cutout(sample, condition, key)
                if shown is not None:
                    made[key] = shown
            self.measured.emit(source, condition, made, time.monotonic() - begun)
        self.all_measured.emit(source)

    def warm_up(self) -> None:
        """Load what measuring needs while nobody waits: loading libraries makes the window stutter."""
        self._measuring.start(_Work(_load_libraries))

    def hold(self, held: bool) -> None:
        """Let measuring wait at its next step, or go on."""
        self._progress.pause(held)

    def finish(self) -> None:
        """Wait for what is under way."""
        self._progress.cancel()
        self._pool.clear()
        self._pool.waitForDone()
        self._measuring.clear()
        self._measuring.waitForDone()


@cache
def _load_libraries() -> None:
    """Once in a program, however many windows it opens."""
    lower_priority()
    condition_of(Picture(np.zeros((96, 96, 3), np.float32)))


class _Work(QRunnable):
    def __init__(self, work: Callable[[], None]) -> None:
        super().__init__()
        self._work = work

    def run(self) -> None:
        self._work()
