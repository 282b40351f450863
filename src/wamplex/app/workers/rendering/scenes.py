"""Aligns the frames of a scene, off the GUI thread."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from wamplex.app.workers.latest import LatestRequests
from wamplex.core.base.errors import Cancelled, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.frames.fit import fit_frames
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.trial.developed_picture import develop_picture


@dataclass(frozen=True)
class SceneRequest:
    """The frames of a scene.

    Attributes
    ----------
    entry : number of the reference
    source : file of the reference
    others : files of the other frames
    recipe : of the reference; its values clean before frames are joined
    softness_px : blur that was measured in the reference, in its pixels
    """

    entry: int
    source: Source
    others: tuple[Source, ...]
    recipe: Recipe
    softness_px: float


class SceneAligner(LatestRequests[SceneRequest]):
    """Tells how the frames of a scene lie."""

    ready = Signal(object, object)  # request, SceneFit
    worked = Signal(float, str)
    failed = Signal(str)
    stopped = Signal()

    def __init__(self, store: PictureCache, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._store = store

    def make(self, request: SceneRequest, done: int, total: int, progress: Progress) -> None:
        """Align the frames of one scene."""
        progress = self._progress = Progress(self.worked.emit)
        try:
            files = {source.path: source for source in request.others}

            def read(path: Path) -> Picture:
                return self._developed(files[path], request.recipe, progress)

            reference = self._developed(request.source, request.recipe, progress)
            values = request.recipe.values
            self.ready.emit(request, fit_frames(reference, list(files), read, values, request.softness_px, progress))
        except Cancelled:
            self.stopped.emit()
        except Exception as error:
            self.failed.emit(user_message(error, "There is not enough memory to align these frames."))

    def _developed(self, source: Source, recipe: Recipe, progress: Progress) -> Picture:
        return develop_picture(self._store.get(source, progress), recipe, progress)
