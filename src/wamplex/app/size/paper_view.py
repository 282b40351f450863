"""The sheet of paper to scale with the picture on it, and the print on a wall beside a person."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from wamplex.app.shared import theme

_PERSON_MM = 1700.0
_WALL_MM = 2500.0
_CAPTION_PX = 40
_MIDDLE_MM = 1500.0  # the middle of a print hangs at eye height; common practice


class _CaptionedView(QWidget):
    """Something drawn to scale, with a sentence below."""

    def __init__(self) -> None:
        super().__init__()
        self._caption = ""

    @property
    def caption(self) -> str:
        """Caption below the drawing."""
        return self._caption

    def show_caption(self, caption: str) -> None:
        """Say what is seen."""
        self._caption = caption
        self.update()

    def _paint_caption(self, painter: QPainter) -> None:
        painter.setPen(theme.colour(theme.WHITE))
        painter.setFont(theme.font(13))
        text = QRectF(8, self.height() - _CAPTION_PX, self.width() - 16, _CAPTION_PX)
        flags = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
        painter.drawText(text, int(flags), self._caption)


class PaperView(_CaptionedView):
    """One file as it will be printed, with lines where it is cut or folded."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("The print")
        self.setMinimumSize(120, 120)
        self._image: QImage | None = None
        self._inset = (0.0, 0.0)

    def show_sheet(self, image: QImage | None, inset: tuple[float, float] = (0.0, 0.0)) -> None:
        """Show a file.

        Parameters
        ----------
        inset : share of width and height that is cut off or folded around on each side
        """
        self._image, self._inset = image, inset
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the sheet on a slightly lighter ground."""
        painter = QPainter(self)
        ground = theme.colour(theme.WHITE)
        ground.setAlpha(36)
        painter.fillRect(self.rect(), ground)
        if self._image is None:
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        area = QRectF(self.rect()).adjusted(22, 22, -22, -52)
        fitted = self._image.size().scaled(area.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
        box = QRectF(0, 0, fitted.width(), fitted.height())
        box.moveCenter(area.center())
        painter.drawImage(box, self._image)
        painter.setPen(QPen(theme.colour(theme.OUTLINE), 1))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        if max(self._inset) > 0:
            across, down = self._inset[0] * box.width(), self._inset[1] * box.height()
            pen = QPen(theme.colour(theme.WHITE), 1, Qt.PenStyle.DashLine)
            painter.setPen(pen)
            painter.drawRect(box.adjusted(across, down, -across, -down))
        self._paint_caption(painter)


class WallView(_CaptionedView):
    """A wall 2.5 m high with the print at eye height, and a person of 1.70 m beside it."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("The print on a wall, beside a person")
        self._image: QImage | None = None
        self._print_mm = (0.0, 0.0)

    def show_print(self, image: QImage | None, width_mm: float, height_mm: float) -> None:
        """Hang a print."""
        self._image, self._print_mm = image, (width_mm, height_mm)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint wall, floor, print and person to scale."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        wall = QRectF(self.rect()).adjusted(0, 0, 0, -46)
        painter.fillRect(wall, theme.colour(theme.BAR))
        floor = QRectF(wall.left(), wall.bottom() - 0.06 * wall.height(), wall.width(), 0.06 * wall.height())
        painter.fillRect(floor, theme.colour(theme.RULE))
        width_mm, height_mm = self._print_mm
        needed_mm = max(_WALL_MM, _MIDDLE_MM + height_mm / 2 + 150)
        scale = min((floor.top() - wall.top()) / needed_mm, wall.width() / (width_mm + 2200))
        person_x = wall.center().x() + (width_mm / 2 + 650) * scale
        if self._image is not None:
            hung = QRectF(0, 0, width_mm * scale, height_mm * scale)
            hung.moveCenter(QPointF(wall.center().x() - 300 * scale, floor.top() - _MIDDLE_MM * scale))
            if hung.bottom() > floor.top() - 20:
                hung.moveBottom(floor.top() - 20)
            painter.fillRect(hung.adjusted(1, 2, 3, 4), theme.colour(theme.CONTROL_EDGE))
            painter.drawImage(hung, self._image)
            person_x = hung.right() + 450 * scale
        _paint_person(painter, person_x, floor.top() + 0.03 * wall.height(), _PERSON_MM * scale)
        self._paint_caption(painter)


def _paint_person(painter: QPainter, x: float, ground: float, height: float) -> None:
    """A standing figure, in proportions of a grown person: seven and a half heads high."""
    head = height / 7.5
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(theme.colour(theme.SOFT))
    top = ground - height
    painter.drawEllipse(QRectF(x - 0.38 * head, top, 0.76 * head, head))
    body = QPainterPath()
    body.addRoundedRect(QRectF(x - 0.95 * head, top + 1.15 * head, 1.9 * head, 3.0 * head), 0.6 * head, 0.6 * head)
    for side in (-1, 1):
        leg = QRectF(0, 0, 0.72 * head, 3.6 * head)
        leg.moveCenter(QPointF(x + side * 0.42 * head, ground - 1.8 * head))
        body.addRoundedRect(leg, 0.25 * head, 0.25 * head)
    body.setFillRule(Qt.FillRule.WindingFill)
    painter.drawPath(body)
