"""Develops small views of raw files and picks neutral places, off the GUI thread."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QObject, Signal

from wamplex.app.workers.files.loader import THUMBNAIL_PX
from wamplex.app.workers.latest import LatestRequests
from wamplex.core.analysis.sample import shrunk
from wamplex.core.base.errors import Cancelled, SourceChangedError, UnreadablePictureError
from wamplex.core.base.progress import Progress
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.model.development import Development
from wamplex.core.model.source import Source
from wamplex.core.raw.neutral_point import balance_from_neutral
from wamplex.core.trial.developed_picture import develop_small


@dataclass(frozen=True)
class DevelopRequest:
    """A raw file that is to be seen as it is developed."""

    source: Source
    development: Development


@dataclass(frozen=True)
class NeutralRequest:
    """A place that is to be grey, in shares of the upright picture."""

    source: Source
    across: float
    down: float


class DevelopmentWorker(LatestRequests[DevelopRequest | NeutralRequest]):
    """Makes those asked for last."""

    developed = Signal(object, object, object)  # Source, Development, (h, w, 3) uint8
    picked = Signal(object, object)  # Source, gains of red and blue or None

    def __init__(self, store: PictureCache, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._store = store

    def make(self, request: DevelopRequest | NeutralRequest, done: int, total: int, progress: Progress) -> None:
        """Make one."""
        try:
            picture = self._store.get(request.source, progress)
            if isinstance(request, NeutralRequest):
                raw = picture.raw
                gains = None if raw is None else balance_from_neutral(raw, request.across, request.down)
                self.picked.emit(request.source, gains)
                return
            look = develop_small(picture, request.development, THUMBNAIL_PX, progress)
            small = shrunk(look, THUMBNAIL_PX)
            self.developed.emit(request.source, request.development, np.ascontiguousarray(small))
        except (Cancelled, SourceChangedError, UnreadablePictureError):
            return  # said where the picture is shown
