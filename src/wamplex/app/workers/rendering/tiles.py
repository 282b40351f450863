"""Renders the tiles that the panes show, nearest to the centre first, off the GUI thread."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from wamplex.app.shared.images import tint_image, to_image
from wamplex.app.shared.render_requests import TileKey
from wamplex.app.workers.latest import LatestRequests
from wamplex.core.base.array_types import Rgb8
from wamplex.core.base.errors import Cancelled, SourceChangedError, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.model.picture import Picture
from wamplex.core.preview.result_preview import (
    deviation_preview,
    difference_preview,
    gamut_preview,
    mask_preview,
    preview,
    trace_preview,
)
from wamplex.core.trial.developed_picture import develop_picture
from wamplex.core.upscale.networks.sessions import release_memory


class TileRenderer(LatestRequests[TileKey]):
    """Makes the tiles that are in view."""

    ready = Signal(object, object)  # TileKey, QImage
    failed = Signal(object, str)  # Source, sentence
    notices = Signal(object, object)  # Source, sentences
    outdated = Signal(object)  # Source that has changed on the disk
    working = Signal(int, int, str)  # tiles done, tiles in all, upscaler
    idle = Signal()

    def __init__(self, store: PictureCache, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._store = store

    def rest(self) -> None:
        """All tiles are made."""
        release_memory()
        self.idle.emit()

    def make(self, request: TileKey, done: int, total: int, progress: Progress) -> None:
        """Make a tile."""
        self.working.emit(done, total, request.recipe.upscaler)
        try:
            picture = develop_picture(self._store.get(request.source, progress), request.recipe, progress)
            self.notices.emit(request.source, picture.notices)
            size = request.recipe.size(picture.width, picture.height)
            window = request.window(size.width_px, size.height_px)
            self.ready.emit(request, _image(_pixels(picture, request, window, progress)))
        except Cancelled:
            return
        except SourceChangedError:
            self.drop_where(lambda key: key.source == request.source)
            self.outdated.emit(request.source)
        except Exception as error:
            # Before it is told: what is wanted of this picture after that shall be tried.
            self.drop_where(lambda key: key.source == request.source)
            no_memory = f"There is not enough memory to show {request.source.path.name} at this size."
            self.failed.emit(request.source, user_message(error, no_memory))


def _image(pixels: Rgb8) -> QImage:
    """Ready to be painted: made here, it does not keep the window waiting (2 ms a tile)."""
    return tint_image(pixels) if pixels.ndim == 2 else to_image(pixels)


def _pixels(picture: Picture, key: TileKey, window: Window, progress: Progress) -> Rgb8:
    place = (window, key.reduce, progress)
    if key.overlay.outside:
        return gamut_preview(picture, key.recipe, *place, key.view)
    if key.overlay.trace is not None:
        return trace_preview(picture, key.recipe, key.overlay.trace, *place)
    if key.overlay.minus is not None:
        return difference_preview(picture, key.recipe, key.overlay.minus, *place)
    if key.overlay.among:
        return deviation_preview(picture, key.overlay.among, *place)
    if key.overlay.mask is not None:
        return mask_preview(picture, key.recipe, key.overlay.mask, *place)
    return preview(picture, key.recipe, *place, key.view)
