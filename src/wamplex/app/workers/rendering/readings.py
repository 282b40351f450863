"""Measures the readings of trials, off the GUI thread."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from wamplex.app.shared.render_requests import ReadingsKey
from wamplex.app.workers.latest import LatestRequests
from wamplex.app.workers.thread_priority import lower_priority
from wamplex.core.base.errors import Cancelled, WamplexError
from wamplex.core.base.progress import Progress
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.readings.sampling import readings_at, sample_places
from wamplex.core.trial.developed_picture import develop_picture


class ReadingsThread(LatestRequests[ReadingsKey]):
    """Measures trials; held while there are pixels to be made, which come first."""

    ready = Signal(object, object)  # ReadingsKey, dict of values by reading key

    def __init__(self, store: PictureCache, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._store = store

    def begin(self) -> None:
        """Measuring takes the time that nothing else wants."""
        lower_priority()

    def make(self, request: ReadingsKey, done: int, total: int, progress: Progress) -> None:
        """Measure one trial."""
        try:
            picture = develop_picture(self._store.get(request.source, progress), request.recipe, progress)
            places = request.places or sample_places(picture, request.recipe)
            self.ready.emit(request, readings_at(picture, request.recipe, places, progress))
        except (Cancelled, WamplexError, MemoryError):
            return  # a picture that cannot be read says so where it is shown
