"""The large view of the Finish step: result, mask, brush, and ellipses over faces."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from functools import reduce
from itertools import pairwise
from typing import Literal

from PySide6.QtCore import QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPointingDevice,
    QTabletEvent,
)

from wamplex.app.bench.pane import Pane, TileLookup, render_target
from wamplex.app.bench.viewport import Viewport
from wamplex.app.finish.brush import Brush
from wamplex.app.shared import theme
from wamplex.app.shared.keys import is_key
from wamplex.app.shared.render_requests import Overlay, TileKey
from wamplex.core.geometry.placement import Placement
from wamplex.core.model.finish_values import Mask, TreatedFace
from wamplex.core.model.recipe import Recipe

Tool = Literal["look", "paint", "oval", "pick"]
_Place = tuple[float, float, float]
_LEAST_OVAL_PX = 4
_BRUSH_RIM = 1.4


class FinishPane(Pane):
    """Paints tiles and masks, and emits the strokes drawn on it."""

    drawing = Signal(bool)  # whether a stroke is being drawn
    painted = Signal(object)  # places of the source: list of (x, y, pressure)
    ellipse_drawn = Signal(float, float, float, float)  # middle, width and height in source pixels
    picked = Signal(float, float)  # place of the source
    brush_changed = Signal(object)  # Brush

    def __init__(self, viewport: Viewport, lookup: TileLookup) -> None:
        super().__init__(viewport, lookup)
        self.setMouseTracking(True)
        self.setTabletTracking(True)
        self.setAccessibleName("The finished picture")
        self.tool: Tool = "look"
        self.brush = Brush()
        self.faces: tuple[TreatedFace, ...] = ()
        self._mask: Mask | None = None
        self._mask_alone = False
        self._place = Placement()
        self._source_size = (1, 1)
        self._points: list[_Place] = []
        self._fresh: list[list[_Place]] = []  # strokes whose pixels are not there yet
        self._tint: QImage | None = None
        self._tint_place: object = None
        self._corner: QPointF | None = None
        self._pointer: QPointF | None = None
        self._pressure = 1.0
        # The last image of each place stays until the next is made, so that nothing flickers.
        self._last: dict[tuple[int, int, int], QImage] = {}

    def show_mask(self, mask: Mask | None, *, alone: bool) -> None:
        """Draw a mask as a tint over the result, or by itself; None draws none."""
        if (mask, alone) != (self._mask, self._mask_alone):
            self._mask, self._mask_alone = mask, alone
            self._fresh = []
            self.update()

    def lies(self, place: Placement, width: int, height: int) -> None:
        """Placement of a source of this size in the result."""
        self._place, self._source_size = place, (width, height)

    def take_up(self, tool: Tool) -> None:
        """Choose what dragging does."""
        self.tool = tool
        shapes = {"look": Qt.CursorShape.OpenHandCursor, "paint": Qt.CursorShape.BlankCursor}
        self.setCursor(shapes.get(tool, Qt.CursorShape.CrossCursor))
        self.update()

    def set_brush(self, brush: Brush) -> None:
        """Another brush."""
        self.brush = brush
        self.update()

    def needed_tiles(self) -> Iterator[tuple[float, TileKey]]:
        """Tiles of the result in view, and those of the mask."""
        if self._recipe is None:
            return
        if not (self._mask is not None and self._mask_alone):
            yield from self.tiles_of(self._recipe)
        yield from self._mask_tiles(self._recipe)

    def _mask_tiles(self, recipe: Recipe) -> Iterator[tuple[float, TileKey]]:
        if self._mask is not None:
            for distance, key in self.tiles_of(recipe.unfinished):
                yield distance, replace(key, overlay=Overlay(mask=self._mask))

    def paintEvent(self, event: QPaintEvent) -> None:
        """The result, then what lies over it."""
        super().paintEvent(event)
        if self._recipe is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_faces(painter)
        self._paint_strokes(painter)
        self._paint_pointer(painter)

    def _paint_result(self, painter: QPainter, recipe: Recipe, *, unproofed: bool = False) -> None:
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.scale < 1)
        alone = self._mask is not None and self._mask_alone
        if alone:
            painter.fillRect(QRectF(QPointF(0, 0), self.pane_pixels), QColor(0, 0, 0))
        else:
            self._paint_cached(painter, recipe)
        visible, scale = self.visible(), self.scale
        for _, key in self._mask_tiles(recipe):
            image = self._lookup(key)
            if image is not None:
                painter.drawImage(render_target(self._window(key), visible, scale), image)

    def _paint_cached(self, painter: QPainter, recipe: Recipe) -> None:
        """Tiles; where one is missing, the last one of that place, else the dim placeholder."""
        missing = [key for _, key in self.tiles_of(recipe) if self._lookup(key) is None]
        if any(self._place_of(key) not in self._last for key in missing):
            super()._paint_result(painter, recipe)
        shown: dict[tuple[int, int, int], QImage] = {}
        visible, scale = self.visible(), self.scale
        for _, key in self.tiles_of(recipe):
            image = self._lookup(key) or self._last.get(self._place_of(key))
            if image is not None:
                shown[self._place_of(key)] = image
                painter.drawImage(render_target(self._window(key), visible, scale), image)
        self._last = shown  # of what is in view alone: the cache bounds the rest

    @staticmethod
    def _place_of(key: TileKey) -> tuple[int, int, int]:
        return key.reduce, key.column, key.row

    def forget_images(self) -> None:
        """Another picture, or another size: old images lie elsewhere."""
        self._last.clear()
        self._fresh = []

    def idle(self) -> None:
        """All tiles in view are made: strokes are seen in them now."""
        self._fresh = []
        self._tint = None if not self._points else self._tint
        self.update()

    def _paint_strokes(self, painter: QPainter) -> None:
        """What is drawn and not yet made of pixels: a wash that only grows, so that each frame is cheap."""
        if not self._points and not self._fresh:
            return
        place = (self.visible(), self.size())
        if self._tint is None or self._tint_place != place:
            self._tint, self._tint_place = (
                QImage(self.size(), QImage.Format.Format_ARGB32_Premultiplied),
                place,
            )
            self._tint.fill(Qt.GlobalColor.transparent)
            for points in (*self._fresh, self._points):
                self._tint_on(points)
        painter.setOpacity(0.5 * self.brush.opacity / 100)
        painter.drawImage(0, 0, self._tint)
        painter.setOpacity(1.0)

    def _tint_on(self, points: list[_Place]) -> None:
        """Draw a part of a stroke into the wash."""
        if self._tint is None:
            return
        painter = QPainter(self._tint)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colour = theme.colour(theme.MOSS if self.brush.adds else theme.AMBER)
        for start, end in pairwise(points if len(points) > 1 else [*points, *points]):
            width = self.brush.size * self._shown_per_source * (start[2] + end[2]) / 2
            pen = QPen(colour, max(1.0, width))
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.drawLine(self._shown(start[0], start[1]), self._shown(end[0], end[1]))
        painter.end()

    def _paint_faces(self, painter: QPainter) -> None:
        for face in self.faces:
            painter.save()
            centre = self._shown(face.x * self._source_size[0], face.y * self._source_size[1])
            painter.translate(centre)
            painter.rotate(face.angle_deg)
            per = self._shown_per_source
            half = QRectF(-face.width * per / 2, -face.height * per / 2, face.width * per, face.height * per)
            _outline(painter, half, dashed=not face.on)
            painter.restore()

    def _paint_pointer(self, painter: QPainter) -> None:
        if self._pointer is None:
            return
        if self.tool == "paint":
            radius = self.brush.size * self._shown_per_source / 2
            _outline(
                painter,
                QRectF(self._pointer.x() - radius, self._pointer.y() - radius, 2 * radius, 2 * radius),
            )
        elif self.tool == "oval" and self._corner is not None:
            _outline(painter, QRectF(self._corner, self._pointer).normalized())

    # Places.

    @property
    def _shown_per_source(self) -> float:
        """Logical screen pixels that a source pixel is wide."""
        return self._place.scale * self.scale / self.devicePixelRatioF()

    def _shown(self, x: float, y: float) -> QPointF:
        """Map a place of the source to the pane, in logical pixels."""
        across, down = self._place.at(x, y)
        visible, per = self.visible(), self.scale / self.devicePixelRatioF()
        return QPointF((across - visible.x()) * per, (down - visible.y()) * per)

    def in_source(self, at: QPointF) -> tuple[float, float]:
        """Which place of the source lies under a place of the pane."""
        visible, per = self.visible(), self.devicePixelRatioF() / self.scale
        return self._place.inverse.at(visible.x() + at.x() * per, visible.y() + at.y() * per)

    # Hands.

    def tabletEvent(self, event: QTabletEvent) -> None:
        """A pen says how hard it is pressed; the rest comes as from a mouse."""
        pen = event.pointerType() == QPointingDevice.PointerType.Pen
        self._pressure = event.pressure() if pen else 1.0
        event.ignore()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begin a stroke, an oval, or to move the picture."""
        is_middle_button = event.button() == Qt.MouseButton.MiddleButton
        if self.tool == "look" or is_middle_button:
            super().mousePressEvent(event)
        elif self.tool == "paint":
            self.drawing.emit(True)
            self._points = [self._touched(event)]
            self._tint_on(self._points)
            self.update()
        elif self.tool == "oval":
            self._corner = event.position()
        else:
            self.picked.emit(*self.in_source(event.position()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Go on."""
        touched = [self._pointer, event.position()]
        self._pointer = event.position()
        if self._points:
            place = self._touched(event)
            if self.brush.far_enough(self._points[-1], place):
                self._points.append(place)
                self._tint_on(self._points[-2:])
                touched.append(self._shown(*self._points[-2][:2]))
        else:
            super().mouseMoveEvent(event)
        if self.tool == "paint":
            self.update(self._brush_rectangle(touched))
        elif self.tool != "look":
            self.update()

    def _brush_rectangle(self, places: list[QPointF | None]) -> QRect:
        """All that the brush covers at these places: little of the pane, so that it follows the hand."""
        radius = self.brush.size * self._shown_per_source / 2 + 2 * _BRUSH_RIM
        points = [at for at in places if at is not None]
        around = [QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius) for at in points]
        return reduce(QRectF.united, around, QRectF()).toAlignedRect()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """End the stroke and emit it."""
        if self._points:
            self.drawing.emit(False)
            points, self._points = self._points, []
            self._fresh.append(points)
            self.painted.emit(points)
        elif self._corner is not None:
            self._announce_ellipse(QRectF(self._corner, event.position()).normalized())
            self._corner = None
        else:
            super().mouseReleaseEvent(event)
        self._pressure = 1.0
        self.take_up(self.tool)

    def leaveEvent(self, event: object) -> None:
        """The brush is nowhere."""
        self._pointer = None
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Size and hardness of the brush; adding or taking away."""
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        brush = self.brush
        if is_key(event, "brush-larger"):
            changed = replace(brush, hardness=min(100.0, brush.hardness + 10)) if shift else brush.resized(1.25)
        elif is_key(event, "brush-smaller"):
            changed = replace(brush, hardness=max(0.0, brush.hardness - 10)) if shift else brush.resized(0.8)
        elif is_key(event, "brush-harder"):
            changed = replace(brush, hardness=min(100.0, brush.hardness + 10))
        elif is_key(event, "brush-softer"):
            changed = replace(brush, hardness=max(0.0, brush.hardness - 10))
        elif is_key(event, "brush-turn"):
            changed = replace(brush, adds=not brush.adds)
        else:
            super().keyPressEvent(event)
            return
        self.brush_changed.emit(changed)

    def _touched(self, event: QMouseEvent) -> _Place:
        return (*self.in_source(event.position()), max(0.05, self._pressure))

    def _announce_ellipse(self, box: QRectF) -> None:
        if min(box.width(), box.height()) < _LEAST_OVAL_PX:
            return
        x, y = self.in_source(box.center())
        per = self._shown_per_source
        self.ellipse_drawn.emit(x, y, box.width() / per, box.height() / per)


def _outline(painter: QPainter, box: QRectF, *, dashed: bool = False) -> None:
    """An ellipse that is seen on any ground: light within dark."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for colour, width in ((QColor(0, 0, 0, 140), _BRUSH_RIM + 1.6), (theme.colour(theme.WHITE), _BRUSH_RIM)):
        pen = QPen(colour, width)
        if dashed:
            pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.drawEllipse(box)
