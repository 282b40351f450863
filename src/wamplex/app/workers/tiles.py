"""Renders the tiles that the panes show, nearest to the middle first, on a thread of its own."""

from __future__ import annotations

import threading
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, QThread, Signal

from wamplex.app.workers.loader import PictureStore
from wamplex.core.errors import Cancelled, WamplexError
from wamplex.core.preview import preview
from wamplex.core.progress import Progress
from wamplex.core.recipe import Recipe
from wamplex.core.window import Window

TILE_PX = 512


@dataclass(frozen=True)
class TileKey:
    """One tile: ``TILE_PX`` screen pixels a side, each the mean of ``reduce`` x ``reduce`` result pixels."""

    path: Path
    recipe: Recipe
    reduce: int
    column: int
    row: int

    def window(self, width: int, height: int) -> Window:
        """The result pixels it covers, in a result of this size."""
        side = TILE_PX * self.reduce
        return Window(self.column * side, self.row * side, side, side).clipped(width, height)


class TileRenderer(QThread):
    """Works through the latest list of wanted tiles; a newer list replaces the older."""

    made = Signal(object, object)  # TileKey, (h, w, 3) uint8
    failed = Signal(str, str)  # path, sentence
    notices = Signal(str, object)  # path, sentences
    working = Signal(int, int, str)  # tiles done, tiles in all, upscaler
    idle = Signal()

    def __init__(self, store: PictureStore, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._store = store
        self._wake = threading.Condition()
        self._wanted: list[TileKey] = []
        self._total = 0
        self._running: TileKey | None = None
        self._progress = Progress()
        self._ending = False

    def want(self, keys: list[TileKey]) -> None:
        """Render these, in this order; the tile being made goes on only if it is among them."""
        with self._wake:
            self._wanted = [k for k in keys if k != self._running]
            self._total = len(keys)
            if self._running is not None and self._running not in keys:
                self._progress.cancel()
            self._wake.notify()

    def cancel(self) -> None:
        """Drop everything that is not made yet."""
        self.want([])

    def end(self) -> None:
        """Stop the thread."""
        with self._wake:
            self._ending = True
            self._wanted = []
            self._progress.cancel()
            self._wake.notify()
        self.wait()

    def run(self) -> None:
        """The thread's work."""
        while True:
            with self._wake:
                if not self._wanted and not self._ending:
                    self._running = None
                    self.idle.emit()
                    self._wake.wait_for(lambda: bool(self._wanted) or self._ending)
                if self._ending:
                    return
                key = self._running = self._wanted.pop(0)
                self._progress = progress = Progress()
                done, total = self._total - len(self._wanted) - 1, self._total
            self.working.emit(done, total, key.recipe.upscaler)
            self._make(key, progress)

    def _make(self, key: TileKey, progress: Progress) -> None:
        try:
            picture = self._store.get(key.path)
            self.notices.emit(str(key.path), picture.notices)
            size = key.recipe.size(picture.width, picture.height)
            window = key.window(size.width_px, size.height_px)
            self.made.emit(key, preview(picture, key.recipe, window, key.reduce, progress))
        except Cancelled:
            return
        except (WamplexError, MemoryError) as error:
            sentence = str(error) or f"There is not enough memory to show {key.path.name} at this size."
            self.failed.emit(str(key.path), sentence)
            with self._wake:
                self._wanted = [k for k in self._wanted if k.path != key.path]
