"""Finds the places where trials differ most, off the GUI thread."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal

from wamplex.app.workers.latest import LatestRequests
from wamplex.core.base.errors import Cancelled, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.readings.trial_differences import find_trial_differences
from wamplex.core.trial.developed_picture import develop_picture


@dataclass(frozen=True)
class TrialDifferenceRequest:
    """The trials of a picture that are to be compared."""

    entry: int
    source: Source
    recipes: tuple[Recipe, ...]


class TrialDifferenceFinder(LatestRequests[TrialDifferenceRequest]):
    """Tells the spots it found."""

    ready = Signal(object, object)  # request, spots at shares of the source
    worked = Signal(float, str)
    failed = Signal(str)

    def __init__(self, store: PictureCache, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._store = store

    def make(self, request: TrialDifferenceRequest, done: int, total: int, progress: Progress) -> None:
        """Compare the trials of one picture."""
        progress = self._progress = Progress(self.worked.emit)
        try:
            picture = develop_picture(self._store.get(request.source, progress), request.recipes[0], progress)
            self.ready.emit(request, find_trial_differences(picture, request.recipes, progress))
        except Cancelled:
            return
        except Exception as error:
            self.failed.emit(user_message(error, "There is not enough memory to compare the trials."))
