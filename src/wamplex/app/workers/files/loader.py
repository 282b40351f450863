"""Reads headers and thumbnails of all files, and pixels of the active ones, off the GUI thread."""

from __future__ import annotations

import linecache
import time
from collections import deque
from collections.abc import Callable
from functools import cache
from pathlib import Path

from PySide6.QtCore import QObject, QRunnable, QThreadPool, Signal

from wamplex.app.shared.freeze_gc import freeze_gc
from wamplex.app.workers.thread_priority import lower_priority
from wamplex.core.analysis.report.condition import Condition
from wamplex.core.base.errors import Cancelled, user_message
from wamplex.core.base.lazy_imports import load_all
from wamplex.core.base.progress import Progress
from wamplex.core.base.thread_priority import FOR_THE_EYE
from wamplex.core.intake.read import read_small
from wamplex.core.model.development import Development
from wamplex.core.model.source import Source
from wamplex.core.workflow.assessment.assessment_client import Assessor, UnmeasuredError
from wamplex.core.workflow.assessment.tray_preview import NO_MEMORY, make_tray_preview
from wamplex.core.workflow.recipe_transfer.similar_shots import read_shot_info

THUMBNAIL_PX = 900
_LARGE_AT_ONCE = 6
# More at once are looked at in the process that measures: here they would keep the window waiting for
# Python's lock, for up to 100 ms. That process takes a second to begin, for which a few need not wait.
_FEW = 6


class Loader(QObject):
    """Looks at new tray entries and measures them; signals name the file and what was found."""

    looked = Signal(object, object, object)  # Probe, Thumbnail, Taken or None
    large = Signal(object, object)  # Source, thumbnail as large as the bench needs
    failed = Signal(object, str)  # path, sentence
    measured = Signal(object, object, object, float)  # Source, Condition so far, cut-outs, seconds
    cut = Signal(object, object)  # Source, cut-outs
    all_measured = Signal(object)  # Source
    broke = Signal(str)  # a sentence about a fault of the program

    def __init__(self, measurer: Assessor, parent: QObject) -> None:
        super().__init__(parent)  # with the window goes what was found too late for it
        self._measurer = measurer
        self._pool = QThreadPool()
        self._pool.setMaxThreadCount(2)
        self._progress = Progress()
        self._measuring = QThreadPool()
        self._measuring.setMaxThreadCount(1)
        self._looked_at = 0
        self._waiting: deque[Path] = deque()  # how many; not which

    def look(self, path: Path) -> None:
        """Read header and thumbnail of a file; that of the first few as large as the bench needs."""
        self._looked_at += 1
        large = self._looked_at <= _LARGE_AT_ONCE
        self._waiting.append(path)
        few = len(self._waiting) <= _FEW

        def work() -> None:
            lower_priority(FOR_THE_EYE)
            try:
                if large:
                    pixels, header = read_small(path, THUMBNAIL_PX)
                    self.looked.emit(header, pixels, read_shot_info(path))
                else:
                    self.looked.emit(*(make_tray_preview(path) if few else self._measurer.small(path, self._progress)))
            except Cancelled:
                return
            except Exception as error:
                self.failed.emit(path, user_message(error, NO_MEMORY))
            finally:
                self._waiting.pop()

        self._start(self._pool, work)

    def measure(self, source: Source) -> None:
        """Measure a picture after those that are waiting."""
        self._start(self._measuring, lambda: self._measure(source, None))

    def look_closer(self, source: Source) -> None:
        """Read a thumbnail as large as the bench needs, before all that waits."""

        def work() -> None:
            lower_priority(FOR_THE_EYE)
            try:
                thumbnail, header = read_small(source.path, THUMBNAIL_PX)
            except Exception as error:
                self.failed.emit(source.path, user_message(error, NO_MEMORY))
            else:
                if header.source == source:
                    self.large.emit(source, thumbnail)

        self._start(self._pool, work, 1)

    def measure_again(self, source: Source, development: Development) -> None:
        """Measure a raw file once more, as it is developed now: its noise is seen otherwise."""
        self._start(self._measuring, lambda: self._measure(source, development))

    def _measure(self, source: Source, development: Development | None) -> None:
        """Row by row, each shown as soon as it is there."""
        begun = time.monotonic()
        try:
            for condition, cutouts in self._measurer.rows(source, development, self._progress):
                self.measured.emit(source, condition, cutouts, time.monotonic() - begun)
        except UnmeasuredError as error:
            self._tell(error)
        except Cancelled:
            return
        else:
            self.all_measured.emit(source)

    def make_evidence_crops(self, source: Source, condition: Condition) -> None:
        """Make the small pictures of a condition sheet once more, before all that waits to be measured."""

        def work() -> None:
            try:
                self.cut.emit(source, self._measurer.evidence_crops(source, condition, self._progress))
            except UnmeasuredError as error:
                self._tell(error)
            except Cancelled:
                return

        self._start(self._measuring, work, 1)

    def warm_up(self) -> None:
        """Load what is needed while nobody waits: loading libraries makes the window stutter."""
        # PySide looks into the source of every module as it is loaded, and all of it stays: 16 MB.
        linecache.clearcache()
        self._start(self._measuring, self._warm_up)

    def _warm_up(self) -> None:
        self._measurer.warm_up()
        _load_libraries()

    def pause(self, paused: bool) -> None:
        """Pause or resume measuring."""
        self._progress.pause(paused)

    @property
    def paused(self) -> bool:
        """Whether measuring waits."""
        return self._progress.paused

    def finish(self) -> None:
        """Wait for what is under way; nothing more is begun."""
        self._progress.cancel()
        self._pool.clear()
        self._pool.waitForDone()
        self._measuring.clear()
        self._measuring.waitForDone()
        self._measurer.close()

    def _start(self, pool: QThreadPool, work: Callable[[], None], priority: int = 0) -> None:
        # What was found last, or a file that changes, asks for more while the window is taken apart.
        if not self._progress.cancelled:
            pool.start(_Work(work), priority)

    def _tell(self, error: UnmeasuredError) -> None:
        if str(error):
            self.broke.emit(str(error))


@cache
def _load_libraries() -> None:
    """Once in a program, however many windows it opens."""
    lower_priority()
    load_all()
    linecache.clearcache()  # for the libraries' sources
    freeze_gc()


class _Work(QRunnable):
    def __init__(self, work: Callable[[], None]) -> None:
        super().__init__()
        self._work = work

    def run(self) -> None:
        self._work()
