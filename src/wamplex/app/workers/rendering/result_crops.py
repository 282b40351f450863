"""Reads crops of a result and renders the same crops of its source, off the GUI thread."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from wamplex.app.workers.latest import LatestRequests
from wamplex.core.base.errors import Cancelled, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.convert import composite, to_srgb
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.intake.read import read_part
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.preview.result_preview import preview
from wamplex.core.readings.sampling import readings_at
from wamplex.core.trial.developed_picture import develop_picture


@dataclass(frozen=True)
class ResultCropRequest:
    """A place of a result.

    Attributes
    ----------
    plain : recipe of the source plainly enlarged, of the same size
    window : of the enlarged picture
    corner : where the enlarged picture begins in the file
    places : where readings are to be taken, as shares; empty for none
    """

    path: Path
    source: Source
    recipe: Recipe
    plain: Recipe
    window: Window
    corner: tuple[int, int] = (0, 0)
    places: tuple[tuple[float, float], ...] = ()


class ResultCropWorker(LatestRequests[ResultCropRequest]):
    """Renders and measures the latest request."""

    file_read = Signal(object, object)  # ResultLook, (h, w, 3) uint8 of the file
    source_ready = Signal(object, object)  # ResultLook, (h, w, 3) uint8 of the source
    measured = Signal(object, object)  # ResultLook, readings by their keys
    failed = Signal(object, str)  # ResultLook, a sentence

    def __init__(self, store: PictureCache, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._store = store

    def make(self, request: ResultCropRequest, done: int, total: int, progress: Progress) -> None:
        """The file first, since it needs no source."""
        try:
            part = _file_part(request, progress)
            if part.alpha is None:
                self.file_read.emit(request, _shown(part, part.ground))
            picture = self._store.get(request.source, progress)
            if part.alpha is not None:  # only the whole picture tells what it lies on
                self.file_read.emit(request, _shown(part, picture.ground))
            plain = develop_picture(picture, request.plain, progress)
            self.source_ready.emit(request, preview(plain, request.plain, request.window, 1, progress))
            if request.places:
                developed = develop_picture(picture, request.recipe, progress)
                self.measured.emit(request, readings_at(developed, request.recipe, request.places, progress))
        except Cancelled:
            return
        except Exception as error:
            self.failed.emit(request, user_message(error, "There is not enough memory to show this file."))


def _file_part(request: ResultCropRequest, progress: Progress) -> Picture:
    window, (x, y) = request.window, request.corner
    there = Window(window.x + x, window.y + y, window.width, window.height)
    return read_part(request.path, there, progress)


def _shown(part: Picture, ground: float) -> NDArray[np.uint8]:
    pixels = part.pixels if part.alpha is None else np.dstack([part.pixels, part.alpha])
    shown: NDArray[np.uint8] = np.rint(composite(to_srgb(pixels, part), ground) * 255).astype(np.uint8)
    return shown
