"""One pane of the Linked view: a trial's result, painted from exact tiles."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from math import floor, log2
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from wamplex.app import theme
from wamplex.app.models.viewport import Viewport
from wamplex.app.workers.tiles import TILE_PX, TileKey
from wamplex.core.geometry.size import Size
from wamplex.core.recipe import Recipe

_LARGEST_REDUCE = 4
TileLookup = Callable[[TileKey], QImage | None]


class Pane(QWidget):
    """Shows the part of a result that the viewport says; tiles not made yet show a dim placeholder."""

    activated = Signal()
    tiles_changed = Signal()

    def __init__(self, viewport: Viewport, lookup: TileLookup) -> None:
        super().__init__()
        self.setMinimumSize(60, 60)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(False)
        self._viewport = viewport
        self._lookup = lookup
        self._recipe: Recipe | None = None
        self._size: Size | None = None
        self._path: Path | None = None
        self._placeholder: QImage | None = None
        self._drag_from: QPointF | None = None
        viewport.changed.connect(self.update)

    def show_result(self, path: Path, recipe: Recipe, size: Size, placeholder: QImage | None) -> None:
        """Show one recipe's result of one picture."""
        self._path, self._recipe, self._size, self._placeholder = path, recipe, size, placeholder
        self.update()

    @property
    def pane_pixels(self) -> QSizeF:
        """Size in screen pixels."""
        ratio = self.devicePixelRatioF()
        return QSizeF(self.width() * ratio, self.height() * ratio)

    @property
    def result_pixels(self) -> QSizeF:
        """Size of the whole result in pixels."""
        return QSizeF(self._size.width_px, self._size.height_px) if self._size else QSizeF(1, 1)

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

    def wanted_tiles(self) -> Iterator[tuple[float, TileKey]]:
        """Tiles in view, each with its distance from the middle in result pixels."""
        if self._recipe is None or self._path is None or self.width() < 2:
            return
        seen = self.visible().intersected(QRectF(QPointF(0, 0), self.result_pixels))
        if seen.isEmpty():
            return
        reduce = self.reduce()
        side = TILE_PX * reduce
        middle = seen.center()
        for row in range(floor(seen.top() / side), floor((seen.bottom() - 1e-6) / side) + 1):
            for column in range(floor(seen.left() / side), floor((seen.right() - 1e-6) / side) + 1):
                dx, dy = (column + 0.5) * side - middle.x(), (row + 0.5) * side - middle.y()
                key = TileKey(self._path, self._recipe, reduce, column, row)
                yield (dx * dx + dy * dy) ** 0.5, key

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint placeholder, then tiles."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.colour(theme.BENCH))
        if self._size is None:
            return
        ratio = self.devicePixelRatioF()
        painter.scale(1 / ratio, 1 / ratio)
        seen, scale = self.visible(), self.scale
        whole = self.result_pixels
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, scale < 1)
        for _, key in self.wanted_tiles():
            window = key.window(int(whole.width()), int(whole.height()))
            left, top = (window.x - seen.x()) * scale, (window.y - seen.y()) * scale
            target = QRectF(left, top, window.width * scale, window.height * scale)
            image = self._lookup(key)
            if image is not None:
                painter.drawImage(target, image)
            elif self._placeholder is not None:
                per_x = self._placeholder.width() / whole.width()
                per_y = self._placeholder.height() / whole.height()
                part = QRectF(window.x * per_x, window.y * per_y, window.width * per_x, window.height * per_y)
                painter.drawImage(target, self._placeholder, part)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """More or less is in view."""
        self.tiles_changed.emit()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold of the picture."""
        self.activated.emit()
        self._drag_from = event.position()
        self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Move all panes along."""
        if self._drag_from is None:
            return
        moved = event.position() - self._drag_from
        self._drag_from = event.position()
        per_point = self.devicePixelRatioF() / self.scale
        self._pan(-moved.x() * per_point, -moved.y() * per_point)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go."""
        self._drag_from = None
        self.unsetCursor()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom all panes about the place under the pointer."""
        steps = event.angleDelta().y()
        if steps == 0:
            return
        seen, whole = self.visible(), self.result_pixels
        at, per_point = event.position(), self.devicePixelRatioF() / self.scale
        anchor = (
            (seen.x() + at.x() * per_point) / whole.width(),
            (seen.y() + at.y() * per_point) / whole.height(),
        )
        self._viewport.step_zoom(steps, self.scale, anchor)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrow keys pan by a quarter of the pane."""
        seen = self.visible()
        step = {
            Qt.Key.Key_Left: (-seen.width() / 4, 0.0),
            Qt.Key.Key_Right: (seen.width() / 4, 0.0),
            Qt.Key.Key_Up: (0.0, -seen.height() / 4),
            Qt.Key.Key_Down: (0.0, seen.height() / 4),
        }.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
        else:
            self._pan(*step)

    def _pan(self, dx: float, dy: float) -> None:
        whole = self.result_pixels
        view = self._viewport
        if view.zoom is None:
            view.zoom = self.scale
        view.move_to(view.centre_x + dx / whole.width(), view.centre_y + dy / whole.height())
