"""The picture of the Assess step, with spots, faces and masks drawn over it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen

from wamplex.app.shared import theme
from wamplex.app.shared.keys import is_key
from wamplex.app.shared.picture_view import PictureView

AreaName = Literal["", "subject", "sharp"]
_SPOT_WIDTH, _SPOT_HEIGHT, _LABEL_HEIGHT = 92.0, 70.0, 18.0

_STEPS = {
    Qt.Key.Key_Left: (-0.01, 0.0),
    Qt.Key.Key_Right: (0.01, 0.0),
    Qt.Key.Key_Up: (0.0, -0.01),
    Qt.Key.Key_Down: (0.0, 0.01),
}


@dataclass(frozen=True)
class Mark:
    """A spot on the picture: its name and middle, as shares of width and height."""

    name: str
    x: float
    y: float


class AssessView(PictureView):
    """Spots are dragged, or chosen with page keys and moved with arrow keys; Delete takes one away."""

    spot_dragged = Signal(str, float, float)
    spot_removed = Signal(str)
    spot_placed = Signal(float, float)

    def __init__(self) -> None:
        super().__init__("The picture with its spots. Page keys select a spot, arrow keys move it, Delete removes it")
        self.setMinimumSize(200, 160)
        self._marks: tuple[Mark, ...] = ()
        self._faces: tuple[QRectF, ...] = ()
        self._overlay: QImage | None = None
        self._placing = False
        self._dragged: Mark | None = None
        self.chosen = ""

    def show_image(self, image: QImage) -> None:
        """Show a picture."""
        self._image = image
        self.update()

    def show_marks(self, marks: tuple[Mark, ...]) -> None:
        """Draw these spots."""
        self._marks = marks
        self.update()

    def show_faces(self, faces: tuple[QRectF, ...]) -> None:
        """Draw frames around faces, given in shares of the picture."""
        self._faces = faces
        self.update()

    def show_overlay(self, overlay: QImage | None) -> None:
        """Cover the picture with a veil, or uncover it."""
        self._overlay = overlay
        self.update()

    def place_next(self, placing: bool) -> None:
        """The next press on the picture places a spot."""
        self._placing = placing
        self.setCursor(Qt.CursorShape.CrossCursor if placing else Qt.CursorShape.ArrowCursor)

    def box(self) -> QRectF:
        """Rectangle of the picture in the view."""
        assert self._image is not None
        fitted = self._image.size().scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio)
        left, top = (self.width() - fitted.width()) / 2, (self.height() - fitted.height()) / 2
        return QRectF(left, top, fitted.width(), fitted.height())

    def frame_of(self, mark: Mark) -> QRectF:
        """The rectangle a spot is drawn as."""
        box = self.box()
        centre = QPointF(box.x() + mark.x * box.width(), box.y() + mark.y * box.height())
        frame = QRectF(0, 0, _SPOT_WIDTH, _SPOT_HEIGHT)
        frame.moveCenter(centre)
        return frame

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint picture, veil, faces, spots."""
        painter = QPainter(self)
        if self._image is None:
            self._paint_text(painter)
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        box = self.box()
        painter.drawImage(box, self._image)
        if self._overlay is not None:
            painter.drawImage(box, self._overlay)
        for face in self._faces:
            _frame(painter, _placed(face, box))
        for mark in self._marks:
            self._paint_mark(painter, mark)

    def _paint_mark(self, painter: QPainter, mark: Mark) -> None:
        frame = self.frame_of(mark)
        _frame(painter, frame, strong=mark.name == self.chosen)
        painter.setFont(theme.font(12, heading=True))
        width = QFontMetricsF(painter.font()).horizontalAdvance(mark.name) + 12
        tag = QRectF(frame.x() - 1, frame.y() - _LABEL_HEIGHT - 1, width, _LABEL_HEIGHT)
        if tag.y() < 0:
            tag.moveTop(frame.bottom() + 1)
        painter.fillRect(tag, theme.colour(theme.CARD))
        painter.setPen(theme.colour(theme.INK))
        painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, mark.name)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold of a spot, or place one."""
        if self._image is None:
            return
        x, y = self._weight(event.position())
        if self._placing:
            self.place_next(False)
            self.spot_placed.emit(x, y)
            return
        under = [m for m in self._marks if self.frame_of(m).contains(event.position())]
        self._dragged = under[-1] if under else None
        self.chosen = self._dragged.name if self._dragged is not None else ""
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag a spot along."""
        if self._dragged is None:
            return
        x, y = self._weight(event.position())
        new_mark = Mark(self._dragged.name, x, y)
        self._marks = tuple(new_mark if m.name == new_mark.name else m for m in self._marks)
        self._dragged = new_mark
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """The spot stays where it was dragged to."""
        dragged, self._dragged = self._dragged, None
        if dragged is not None:
            self.spot_dragged.emit(dragged.name, dragged.x, dragged.y)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Page keys choose a spot, arrow keys move it, Delete takes it away."""
        key = Qt.Key(event.key())
        chosen = next((mark for mark in self._marks if mark.name == self.chosen), None)
        if (is_key(event, "next-mark") or is_key(event, "previous-mark")) and self._marks:
            place = self._marks.index(chosen) if chosen is not None else -1
            step = 1 if is_key(event, "next-mark") else -1
            self.chosen = self._marks[(place + step) % len(self._marks)].name
            self.update()
        elif chosen is not None and key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.spot_removed.emit(self.chosen)
            self.chosen = ""
        elif chosen is not None and key in _STEPS:
            dx, dy = _STEPS[key]
            x, y = (min(max(n, 0.0), 1.0) for n in (chosen.x + dx, chosen.y + dy))
            self.spot_dragged.emit(self.chosen, x, y)
        else:
            super().keyPressEvent(event)

    def _weight(self, place: QPointF) -> tuple[float, float]:
        box = self.box()
        x, y = (place.x() - box.x()) / box.width(), (place.y() - box.y()) / box.height()
        return min(max(x, 0.0), 1.0), min(max(y, 0.0), 1.0)


def _placed(part: QRectF, box: QRectF) -> QRectF:
    return QRectF(
        box.x() + part.x() * box.width(),
        box.y() + part.y() * box.height(),
        part.width() * box.width(),
        part.height() * box.height(),
    )


def _frame(painter: QPainter, frame: QRectF, *, strong: bool = False) -> None:
    """White with a dark edge, to be seen on any ground; moss-coloured inside when chosen."""
    for token, width in ((theme.OUTLINE, 4), (theme.MOSS_TINT if strong else theme.WHITE, 2)):
        painter.setPen(QPen(theme.colour(token), width, j=Qt.PenJoinStyle.MiterJoin))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(frame)
