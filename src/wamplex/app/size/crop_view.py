"""The picture of the Size step with its crop frame; a line drawn along a horizon straightens it."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen

from wamplex.app.shared import theme
from wamplex.app.shared.picture_view import PictureView
from wamplex.core.geometry.cropping import Handle, drag_crop
from wamplex.core.geometry.framing import Framing, horizon_angle

_REACH_PX = 9
_CURSORS: dict[Handle, Qt.CursorShape] = {
    "inside": Qt.CursorShape.SizeAllCursor,
    "left": Qt.CursorShape.SizeHorCursor,
    "right": Qt.CursorShape.SizeHorCursor,
    "top": Qt.CursorShape.SizeVerCursor,
    "bottom": Qt.CursorShape.SizeVerCursor,
    "top-left": Qt.CursorShape.SizeFDiagCursor,
    "bottom-right": Qt.CursorShape.SizeFDiagCursor,
    "top-right": Qt.CursorShape.SizeBDiagCursor,
    "bottom-left": Qt.CursorShape.SizeBDiagCursor,
}


class CropView(PictureView):
    """Shows the turned picture, rotated as it is straightened, and what of it is kept."""

    framed = Signal(object)  # Framing
    angle_drawn = Signal(float)  # degrees to straighten by, in all

    def __init__(self) -> None:
        super().__init__("The picture and its crop frame; arrow keys move it, with Shift they change its size")
        self.setMouseTracking(True)
        self.setMinimumSize(160, 120)
        self._framing = Framing()
        self._size = (1, 1)
        self._ratio: float | None = None
        self._drag: tuple[Handle, QPointF, Framing] | None = None
        self._line: tuple[QPointF, QPointF] | None = None
        self._drawing = False

    def show_framing(self, turned: QImage, framing: Framing, width: int, height: int, ratio: float | None) -> None:
        """Show a framing of a picture of these dimensions.

        Parameters
        ----------
        turned : thumbnail after quarter turns and flip
        ratio : what the crop is locked to
        """
        self._image, self._framing, self._size, self._ratio = turned, framing, (width, height), ratio
        self.update()

    def draw_line(self, drawing: bool) -> None:
        """The next drag draws a line that becomes level or upright."""
        self._drawing = drawing
        self.setCursor(Qt.CursorShape.CrossCursor if drawing else Qt.CursorShape.ArrowCursor)

    def scale(self) -> float:
        """Screen points per picture pixel."""
        wide, high = self._framing.turned_size(*self._size)
        # Room for the corners of a straightened picture.
        fraction = 1.0 if self._framing.straighten_deg == 0 else 0.9
        return fraction * min(self.width() / wide, self.height() / high)

    def frame_rect(self) -> QRectF:
        """The crop frame in the view."""
        crop = self._framing.window(*self._size)
        wide, high = self._framing.turned_size(*self._size)
        scale, centre = self.scale(), QRectF(self.rect()).center()
        left = centre.x() + (crop.x - wide / 2) * scale
        top = centre.y() + (crop.y - high / 2) * scale
        return QRectF(left, top, crop.width * scale, crop.height * scale)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the picture, a veil over what is cut off, and the frame."""
        painter = QPainter(self)
        if self._image is None:
            self._paint_text(painter)
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        wide, high = (n * self.scale() for n in self._framing.turned_size(*self._size))
        painter.save()
        painter.translate(QRectF(self.rect()).center())
        painter.rotate(self._framing.straighten_deg)
        painter.drawImage(QRectF(-wide / 2, -high / 2, wide, high), self._image)
        painter.restore()
        frame = self.frame_rect()
        self._paint_overlay(painter, frame)
        self._paint_frame(painter, frame)
        if self._line is not None:
            for token, width in ((theme.OUTLINE, 4), (theme.WHITE, 2)):
                painter.setPen(QPen(theme.colour(token), width))
                painter.drawLine(*self._line)

    def _paint_overlay(self, painter: QPainter, frame: QRectF) -> None:
        outside = QPainterPath()
        outside.setFillRule(Qt.FillRule.OddEvenFill)
        outside.addRect(QRectF(self.rect()))
        outside.addRect(frame)
        shade = theme.colour(theme.BENCH)
        shade.setAlpha(170)
        painter.fillPath(outside, shade)

    def _paint_frame(self, painter: QPainter, frame: QRectF) -> None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for token, width in ((theme.OUTLINE, 4), (theme.WHITE, 2)):
            painter.setPen(QPen(theme.colour(token), width, j=Qt.PenJoinStyle.MiterJoin))
            painter.drawRect(frame)
        if self._drag is not None or self._line is not None:  # thirds, to compose by
            faint = theme.colour(theme.WHITE)
            faint.setAlpha(120)
            painter.setPen(QPen(faint, 1))
            for third in (1 / 3, 2 / 3):
                x, y = frame.x() + third * frame.width(), frame.y() + third * frame.height()
                painter.drawLine(QPointF(x, frame.top()), QPointF(x, frame.bottom()))
                painter.drawLine(QPointF(frame.left(), y), QPointF(frame.right(), y))

    def handle_at(self, place: QPointF) -> Handle | None:
        """The part of the frame under a place."""
        frame = self.frame_rect()
        if not frame.adjusted(-_REACH_PX, -_REACH_PX, _REACH_PX, _REACH_PX).contains(place):
            return None
        down = "top" if abs(place.y() - frame.top()) <= _REACH_PX else ""
        down = down or ("bottom" if abs(place.y() - frame.bottom()) <= _REACH_PX else "")
        across = "left" if abs(place.x() - frame.left()) <= _REACH_PX else ""
        across = across or ("right" if abs(place.x() - frame.right()) <= _REACH_PX else "")
        name = "-".join(part for part in (down, across) if part) or "inside"
        return next(handle for handle in _CURSORS if handle == name)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold of the frame, or begin a line."""
        if self._image is None:
            return
        if self._drawing:
            self._line = (event.position(), event.position())
            return
        handle = self.handle_at(event.position())
        self._drag = None if handle is None else (handle, event.position(), self._framing)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag the frame or the line along."""
        if self._line is not None:
            self._line = (self._line[0], event.position())
            self.update()
        elif self._drag is not None:
            handle, start, framing = self._drag
            offset, scale = event.position() - start, self.scale()
            place = (offset.x() / scale, offset.y() / scale)
            self._framing = drag_crop(framing, *self._size, handle, *place, self._ratio)
            self.update()
        elif self._image is not None and not self._drawing:
            under = self.handle_at(event.position())
            self.setCursor(Qt.CursorShape.ArrowCursor if under is None else _CURSORS[under])

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Apply the dragged crop."""
        drag, self._drag = self._drag, None
        line, self._line = self._line, None
        if line is not None:
            self.draw_line(False)
            (x0, y0), (x1, y1) = ((p.x(), p.y()) for p in line)
            if abs(x1 - x0) + abs(y1 - y0) > _REACH_PX:
                self.angle_drawn.emit(self._framing.straighten_deg + horizon_angle(x0, y0, x1, y1))
        elif drag is not None and self._framing != drag[2]:
            self.framed.emit(self._framing)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrow keys move the frame; with Shift they move its lower right corner."""
        step = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, -1),
            Qt.Key.Key_Down: (0, 1),
        }.get(Qt.Key(event.key()))
        if step is None or self._image is None:
            super().keyPressEvent(event)
            return
        grows = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        pixels = max(1, round(4 / self.scale()))
        handle: Handle = "bottom-right" if grows else "inside"
        new_framing = drag_crop(self._framing, *self._size, handle, step[0] * pixels, step[1] * pixels, self._ratio)
        self.framed.emit(new_framing)
