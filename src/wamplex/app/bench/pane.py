"""A pane: one result painted from exact tiles, or two with a curtain between them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from math import ceil, floor, log2

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from wamplex.app.bench.viewport import Viewport
from wamplex.app.shared import theme
from wamplex.app.shared.render_requests import TILE_PX, Overlay, TileKey
from wamplex.core.base.window import Window
from wamplex.core.geometry.size import Size
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source

_LARGEST_REDUCE = 4
TileLookup = Callable[[TileKey], QImage | None]


class Pane(QWidget):
    """Shows the part of a result that the viewport says; tiles not made yet show a dim placeholder.

    Parameters
    ----------
    exact : ask for just the pixels in view, as small panes that hardly move do, instead of tiles of a grid
    """

    activated = Signal()
    tiles_changed = Signal()
    opened = Signal()
    released = Signal()

    def __init__(self, viewport: Viewport, lookup: TileLookup, *, exact: bool = False) -> None:
        super().__init__()
        self._exact = exact
        self._overlay = Overlay()
        self._unproofed = False
        self.setMinimumSize(60, 60)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # what it lies on need not be painted
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(False)
        self._viewport = viewport
        self._lookup = lookup
        self._recipe: Recipe | None = None
        self._size: Size | None = None
        self._full = QSizeF(1, 1)
        self._source: Source | None = None
        self._placeholder: QImage | None = None
        self._drag_from: QPointF | None = None
        viewport.changed.connect(self.update)

    def show_result(
        self,
        source: Source,
        recipe: Recipe,
        size: Size,
        placeholder: QImage | None,
        overlay: Overlay | None = None,
        *,
        unproofed: bool = False,
    ) -> None:
        """Show one recipe's result of one picture, as the proof has it or in the colours of the file."""
        self._source, self._recipe, self._size, self._placeholder = source, recipe, size, placeholder
        self._full = QSizeF(size.width_px, size.height_px)
        self._overlay = overlay or Overlay()
        self._unproofed = unproofed
        self.update()

    @property
    def pane_pixels(self) -> QSizeF:
        """Size in screen pixels."""
        ratio = self.devicePixelRatioF()
        return QSizeF(self.width() * ratio, self.height() * ratio)

    @property
    def result_pixels(self) -> QSizeF:
        """Size of the whole result in pixels."""
        return self._full

    @property
    def scale(self) -> float:
        """Screen pixels per result pixel."""
        return self._viewport.scale(self.result_pixels, self.pane_pixels)

    def visible(self) -> QRectF:
        """Result pixels in view."""
        return self._viewport.visible(self.result_pixels, self.pane_pixels)

    def reduce(self) -> int:
        """How many result pixels a side one tile pixel averages."""
        if self.scale >= 1:
            return 1
        return int(min(_LARGEST_REDUCE, 2 ** floor(log2(1 / self.scale) + 1e-9)))

    def needed_tiles(self) -> Iterator[tuple[float, TileKey]]:
        """Tiles in view, each with its distance from the middle in result pixels."""
        if self._recipe is not None:
            yield from self.tiles_of(self._recipe, unproofed=self._unproofed)

    def tiles_of(self, recipe: Recipe, *, unproofed: bool = False) -> Iterator[tuple[float, TileKey]]:
        """The same for another recipe in this place."""
        if self._source is None or self.width() < 2:
            return
        visible = self.visible().intersected(QRectF(QPointF(0, 0), self.result_pixels))
        if visible.isEmpty():
            return
        reduce = self.reduce()
        view = self._viewport.view.unproofed if unproofed else self._viewport.view.alone
        if self._exact:
            place = _round_to_pixels(visible)
            yield 0.0, TileKey(self._source, recipe, reduce, 0, 0, self._overlay, place, view)
            return
        side = TILE_PX * reduce
        centre = visible.center()
        for row in range(floor(visible.top() / side), floor((visible.bottom() - 1e-6) / side) + 1):
            for column in range(floor(visible.left() / side), floor((visible.right() - 1e-6) / side) + 1):
                dx, dy = (column + 0.5) * side - centre.x(), (row + 0.5) * side - centre.y()
                key = TileKey(self._source, recipe, reduce, column, row, self._overlay, view=view)
                yield (dx * dx + dy * dy) ** 0.5, key

    def repaint_tile(self, key: TileKey) -> None:
        """A tile has come: paint the place where it lies, and nothing when it is not in view."""
        if any(key == tile for _, tile in self.needed_tiles()):
            place = render_target(self._window(key), self.visible(), self.scale)
            ratio = self.devicePixelRatioF()
            rectangle = QRectF(place.x() / ratio, place.y() / ratio, place.width() / ratio, place.height() / ratio)
            self.update(rectangle.toAlignedRect())

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the result."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.colour(theme.BENCH))
        if self._size is None or self._recipe is None:
            return
        ratio = self.devicePixelRatioF()
        painter.scale(1 / ratio, 1 / ratio)
        self._paint_result(painter, self._recipe, unproofed=self._unproofed)

    def _paint_result(self, painter: QPainter, recipe: Recipe, *, unproofed: bool = False) -> None:
        """Placeholder where a tile is missing, then tiles."""
        full, visible, scale = self.result_pixels, self.visible(), self.scale
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, scale < 1)
        for _, key in self.tiles_of(recipe, unproofed=unproofed):
            window = self._window(key)
            target = render_target(window, visible, scale)
            image = self._lookup(key)
            if image is not None:
                painter.drawImage(target, image)
            elif self._placeholder is not None:
                per_x = self._placeholder.width() / full.width()
                per_y = self._placeholder.height() / full.height()
                part = QRectF(window.x * per_x, window.y * per_y, window.width * per_x, window.height * per_y)
                painter.drawImage(target, self._placeholder, part)

    def _window(self, key: TileKey) -> Window:
        """The result pixels of a tile."""
        full = self.result_pixels
        return key.window(int(full.width()), int(full.height()))

    def resizeEvent(self, event: QResizeEvent) -> None:
        """More or less is in view."""
        self.tiles_changed.emit()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold of the picture."""
        self.activated.emit()
        self._drag_from = event.position()
        self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Ask to look closer."""
        self.opened.emit()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Move all panes along."""
        if self._drag_from is None:
            return
        offset = event.position() - self._drag_from
        self._drag_from = event.position()
        per_point = self.devicePixelRatioF() / self.scale
        self._pan(-offset.x() * per_point, -offset.y() * per_point)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """End the drag."""
        self._drag_from = None
        self.unsetCursor()
        self.released.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom all panes about the place under the pointer."""
        steps = event.angleDelta().y()
        if steps == 0:
            return
        visible, full = self.visible(), self.result_pixels
        at, per_point = event.position(), self.devicePixelRatioF() / self.scale
        fixed_point = (
            (visible.x() + at.x() * per_point) / full.width(),
            (visible.y() + at.y() * per_point) / full.height(),
        )
        self._viewport.step_zoom(steps, self.scale, fixed_point)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrow keys pan by a quarter of the pane."""
        visible = self.visible()
        step = {
            Qt.Key.Key_Left: (-visible.width() / 4, 0.0),
            Qt.Key.Key_Right: (visible.width() / 4, 0.0),
            Qt.Key.Key_Up: (0.0, -visible.height() / 4),
            Qt.Key.Key_Down: (0.0, visible.height() / 4),
        }.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
        else:
            self._pan(*step)

    def _pan(self, dx: float, dy: float) -> None:
        full = self.result_pixels
        view = self._viewport
        if view.zoom is None:
            view.zoom = self.scale
        view.move_to(view.centre_x + dx / full.width(), view.centre_y + dy / full.height())


def render_target(window: Window, visible: QRectF, scale: float) -> QRectF:
    """Rectangle of the result in a pane, in screen pixels."""
    left, top = (window.x - visible.x()) * scale, (window.y - visible.y()) * scale
    return QRectF(left, top, window.width * scale, window.height * scale)


def _round_to_pixels(visible: QRectF) -> Window:
    left, top = floor(visible.left() + 1e-6), floor(visible.top() + 1e-6)
    return Window(left, top, ceil(visible.right() - 1e-6) - left, ceil(visible.bottom() - 1e-6) - top)
