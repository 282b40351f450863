"""Requests the visible tiles, nearest to the centre first, and pauses readings meanwhile."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QImage

from wamplex.app.bench.tile_cache import TileCache
from wamplex.app.shared.render_requests import TileKey
from wamplex.app.workers.rendering.readings import ReadingsThread
from wamplex.app.workers.rendering.tiles import TileRenderer

_STILL_MS = 400
NeededTiles = Iterable[tuple[float, int, TileKey]]


class TileScheduler(QObject):
    """Between a view, the tiles at hand, and the threads that make tiles and readings.

    Parameters
    ----------
    needed_tiles : gives the tiles in view, each with its distance from the middle and its rank
    is_visible : whether the view is on the screen
    cache : of another view, to be shared with it
    """

    tile_ready = Signal(object)  # TileKey
    working = Signal(int, int, str)  # tiles done, tiles in all, upscaler
    idle = Signal()  # all tiles in view are there
    moving = Signal(bool)  # whether a hand moves the picture or draws, and other work had better wait

    def __init__(
        self,
        renderer: TileRenderer,
        readings: ReadingsThread,
        needed_tiles: Callable[[], NeededTiles],
        is_visible: Callable[[], bool],
        parent: QObject,
        cache: TileCache | None = None,
    ) -> None:
        super().__init__(parent)
        self._renderer, self._readings = renderer, readings
        self._needed_tiles, self._visible = needed_tiles, is_visible
        self.cache = TileCache() if cache is None else cache  # an empty one counts as false
        self._stopped, self._drawing = False, False
        # Readings wait until the picture has lain still for a moment: they would make panning stutter.
        self._still = QTimer(self)
        self._still.setSingleShot(True)
        self._still.setInterval(_STILL_MS)
        self._still.timeout.connect(self._let_readings_go_on)
        # A view that is laid out tells of each of its panes; one request for all of them is enough.
        self._asking = QTimer(self)
        self._asking.setSingleShot(True)
        self._asking.setInterval(0)
        self._asking.timeout.connect(self._request)
        renderer.ready.connect(self._put)
        renderer.working.connect(self._tell_work)
        renderer.idle.connect(self._tell_idle)

    def ask_soon(self) -> None:
        """Ask for the visible tiles soon."""
        self._asking.start()

    def view_changed(self) -> None:
        """The view shows another place."""
        self._stopped = False
        self._readings.pause(True)
        if self._visible():
            self.moving.emit(True)
        self._still.start()
        self._request()

    def draw(self, drawing: bool) -> None:
        """A hand begins to draw, or ends: till then only tiles are made."""
        self._drawing = drawing
        if drawing:
            self._readings.pause(True)
            self.moving.emit(True)
        else:
            self._still.start()

    def stop(self) -> None:
        """Make no tiles until something else is asked for."""
        self._stopped = True
        self._renderer.cancel()

    def leave(self) -> None:
        """Stop rendering: nothing is visible."""
        self._renderer.cancel()
        if self._drawing:  # a hand that lets go elsewhere is not heard of
            self.draw(False)
        self._readings.pause(True)

    def _request(self) -> None:
        """Ask for the tiles in view that are not at hand."""
        if self._stopped or not self._visible():
            return
        missing = [row for row in self._needed_tiles() if self.cache.get(row[2]) is None]
        missing.sort(key=lambda row: row[:2])
        unique = list(dict.fromkeys(key for _, _, key in missing))
        self._renderer.request(unique)
        if not unique:
            self._tell_idle()

    def _put(self, key: TileKey, image: QImage) -> None:
        self.cache.put(key, image)
        self.tile_ready.emit(key)

    def _let_readings_go_on(self) -> None:
        if self._drawing:
            return
        if self._visible():  # another view may be seen, and decides then
            self._readings.pause(self._renderer.busy)
        self.moving.emit(False)

    def _tell_work(self, done: int, total: int, upscaler_key: str) -> None:
        if self._visible() and not self._stopped:
            self.working.emit(done, total, upscaler_key)

    def _tell_idle(self) -> None:
        if not self._still.isActive():
            self._let_readings_go_on()
        if self._visible() and not self._stopped:
            self.idle.emit()
