"""Aligns the frames of a scene, off the GUI thread."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal

from wamplex.app.workers.latest import LatestRequests
from wamplex.core.base.errors import Cancelled, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.frames.fit import fit_frames
from wamplex.core.intake.picture_cache import PictureCache
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
            sources = (request.source, *request.others)
            first, *others = (develop_picture(self._store.get(s, progress), request.recipe, progress) for s in sources)
            fit = fit_frames(first, others, request.recipe.values, request.softness_px, progress)
            self.ready.emit(request, fit)
        except Cancelled:
            self.stopped.emit()
        except Exception as error:
            self.failed.emit(user_message(error, "There is not enough memory to align these frames."))
