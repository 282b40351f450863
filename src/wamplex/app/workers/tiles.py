"""Renders the tiles that the panes show, nearest to the middle first, on a thread of its own."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from wamplex.app.workers.latest import LatestWishes
from wamplex.core.colour.view import PLAIN, View
from wamplex.core.errors import Cancelled, SourceChangedError, told
from wamplex.core.intake.store import PictureStore
from wamplex.core.picture import Picture
from wamplex.core.preview import difference_preview, preview, trace_preview
from wamplex.core.progress import Progress
from wamplex.core.recipe import Recipe
from wamplex.core.source import Source
from wamplex.core.upscale.sessions import release_memory
from wamplex.core.window import Window

TILE_PX = 512
Shown = NDArray[np.uint8]


@dataclass(frozen=True)
class Overlay:
    """What is shown instead of the plain result.

    Attributes
    ----------
    trace : key of a reading that is drawn over it
    minus : recipe of another result that is taken away from it
    """

    trace: str | None = None
    minus: Recipe | None = None


@dataclass(frozen=True)
class TileKey:
    """One tile: ``TILE_PX`` screen pixels a side, each the mean of ``reduce`` x ``reduce`` result pixels.

    Attributes
    ----------
    place : the very result pixels, instead of a column and row of the grid of tiles
    view : screen and proof it is shown with; differences and traces are measured, and heed none
    """

    source: Source
    recipe: Recipe
    reduce: int
    column: int
    row: int
    overlay: Overlay = Overlay()
    place: Window | None = None
    view: View = PLAIN

    def window(self, width: int, height: int) -> Window:
        """The result pixels it covers, in a result of this size."""
        if self.place is not None:
            return self.place
        side = TILE_PX * self.reduce
        return Window(self.column * side, self.row * side, side, side).clipped(width, height)


class TileRenderer(LatestWishes[TileKey]):
    """Makes the tiles that are in view."""

    made = Signal(object, object)  # TileKey, (h, w, 3) uint8
    failed = Signal(object, str)  # Source, sentence
    notices = Signal(object, object)  # Source, sentences
    outdated = Signal(object)  # Source that has changed on the disk
    working = Signal(int, int, str)  # tiles done, tiles in all, upscaler
    idle = Signal()

    def __init__(self, store: PictureStore, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._store = store

    def rest(self) -> None:
        """All tiles are made."""
        release_memory()
        self.idle.emit()

    def fulfil(self, wish: TileKey, done: int, total: int, progress: Progress) -> None:
        """Make a tile."""
        self.working.emit(done, total, wish.recipe.upscaler)
        try:
            picture = self._store.get(wish.source, progress)
            self.notices.emit(wish.source, picture.notices)
            size = wish.recipe.size(picture.width, picture.height)
            window = wish.window(size.width_px, size.height_px)
            self.made.emit(wish, _pixels(picture, wish, window, progress))
        except Cancelled:
            return
        except SourceChangedError:
            self.drop_where(lambda key: key.source == wish.source)
            self.outdated.emit(wish.source)
        except Exception as error:
            # Before it is told: what is wanted of this picture after that shall be tried.
            self.drop_where(lambda key: key.source == wish.source)
            no_memory = f"There is not enough memory to show {wish.source.path.name} at this size."
            self.failed.emit(wish.source, told(error, no_memory))


def _pixels(picture: Picture, key: TileKey, window: Window, progress: Progress) -> Shown:
    place = (window, key.reduce, progress)
    if key.overlay.trace is not None:
        return trace_preview(picture, key.recipe, key.overlay.trace, *place)
    if key.overlay.minus is not None:
        return difference_preview(picture, key.recipe, key.overlay.minus, *place)
    return preview(picture, key.recipe, *place, key.view)
