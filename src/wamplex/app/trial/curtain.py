"""Two results in one place with a movable divider between them."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen

from wamplex.app.bench.pane import Pane, TileLookup
from wamplex.app.bench.viewport import Viewport
from wamplex.app.shared import theme
from wamplex.app.shared.keys import is_key
from wamplex.app.shared.render_requests import TileKey
from wamplex.core.model.recipe import Recipe

_GRIP_PX = 9
_KEY_STEP = 0.02


class CurtainPane(Pane):
    """The first result left of (or above) the divider, the second on its other side."""

    def __init__(self, viewport: Viewport, lookup: TileLookup) -> None:
        super().__init__(viewport, lookup)
        self.setAccessibleName("Two trials with a divider between them")
        self.setToolTip("Drag the line to draw the curtain; drag the picture to move it")
        self.divider = 0.5
        self.upright = True
        self._second: Recipe | None = None
        self._second_unproofed = False
        self._drawing = False

    def show_second(self, recipe: Recipe, *, unproofed: bool = False) -> None:
        """The result beyond the divider."""
        self._second, self._second_unproofed = recipe, unproofed
        self.update()

    def draw_to(self, divider: float) -> None:
        """Put the divider at a share of the pane."""
        self.divider = min(max(divider, 0.0), 1.0)
        self.update()

    def turn(self, upright: bool) -> None:
        """Divide left from right, or above from below."""
        self.upright = upright
        self.update()

    def needed_tiles(self) -> Iterator[tuple[float, TileKey]]:
        """Tiles of both results."""
        yield from super().needed_tiles()
        if self._second is not None:
            yield from self.tiles_of(self._second, unproofed=self._second_unproofed)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint each result on its side, and the line."""
        super().paintEvent(event)
        if self._second is None or self._size is None:
            return
        painter = QPainter(self)
        ratio = self.devicePixelRatioF()
        painter.scale(1 / ratio, 1 / ratio)
        width, height = self.pane_pixels.width(), self.pane_pixels.height()
        at = round(self.divider * (width if self.upright else height))
        beyond = QRectF(at, 0, width - at, height) if self.upright else QRectF(0, at, width, height - at)
        painter.setClipRect(beyond)
        painter.fillRect(beyond, theme.colour(theme.BENCH))
        self._paint_result(painter, self._second, unproofed=self._second_unproofed)
        painter.setClipping(False)
        ends = (QPointF(at, 0), QPointF(at, height)) if self.upright else (QPointF(0, at), QPointF(width, at))
        for token, thick in ((theme.OUTLINE, 4), (theme.WHITE, 2)):
            painter.setPen(QPen(theme.colour(token), thick))
            painter.drawLine(*ends)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold of the line, or of the picture."""
        self._drawing = self._near_line(event.position())
        if not self._drawing:
            super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Draw the curtain, or move the picture."""
        if self._drawing:
            place = event.position()
            self.draw_to(place.x() / self.width() if self.upright else place.y() / self.height())
        else:
            super().mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """End the drag."""
        self._drawing = False
        super().mouseReleaseEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Comma and full stop draw the curtain to and fro."""
        if is_key(event, "curtain-back"):
            self.draw_to(self.divider - _KEY_STEP)
        elif is_key(event, "curtain-on"):
            self.draw_to(self.divider + _KEY_STEP)
        else:
            super().keyPressEvent(event)

    def _near_line(self, place: QPointF) -> bool:
        along = place.x() - self.divider * self.width() if self.upright else place.y() - self.divider * self.height()
        return abs(along) <= _GRIP_PX
