"""Measures the readings of trials beside the window."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal

from wamplex.app.workers.latest import LatestWishes
from wamplex.app.workers.politeness import stand_back
from wamplex.core.errors import Cancelled, WamplexError
from wamplex.core.intake.store import PictureStore
from wamplex.core.progress import Progress
from wamplex.core.readings.sampling import readings_at, whole_places
from wamplex.core.recipe import Recipe
from wamplex.core.source import Source


@dataclass(frozen=True)
class ReadingsKey:
    """One trial of one picture, at its spots or, without places, over the whole picture."""

    source: Source
    recipe: Recipe
    places: tuple[tuple[float, float], ...] = ()


class ReadingsThread(LatestWishes[ReadingsKey]):
    """Measures trials; held while there are pixels to be made, which come first."""

    made = Signal(object, object)  # ReadingsKey, dict of values by reading key

    def __init__(self, store: PictureStore, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._store = store

    def begin(self) -> None:
        """Measuring takes the time that nothing else wants."""
        stand_back()

    def fulfil(self, wish: ReadingsKey, done: int, total: int, progress: Progress) -> None:
        """Measure one trial."""
        try:
            picture = self._store.get(wish.source, progress)
            places = wish.places or whole_places(picture, wish.recipe)
            self.made.emit(wish, readings_at(picture, wish.recipe, places, progress))
        except (Cancelled, WamplexError, MemoryError):
            return  # a picture that cannot be read says so where it is shown
