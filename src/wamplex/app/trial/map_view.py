"""The map in the panel: the whole picture, and the part that the panes show."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QWidget

from wamplex.app.bench.viewport import Viewport
from wamplex.app.shared import theme


class MapView(QWidget):
    """Pressing or dragging moves all panes there."""

    def __init__(self, viewport: Viewport) -> None:
        super().__init__()
        self.setFixedHeight(150)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setToolTip("Click or drag to move the view")
        self.setAccessibleName("Map of the picture")
        self._viewport = viewport
        self._image: QImage | None = None
        self._scaled = QPixmap()
        self._visible = QRectF(0, 0, 1, 1)

    def show_picture(self, image: QImage | None) -> None:
        """Show a picture."""
        self._image = image
        self._scaled = QPixmap()
        self.update()

    def show_part(self, visible: QRectF) -> None:
        """Mark the part in view, in fractions of the picture."""
        self._visible = visible.intersected(QRectF(0, 0, 1, 1))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the picture and the mark."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.colour(theme.BENCH))
        if self._image is None:
            return
        box = self._box()
        painter.drawPixmap(box.topLeft(), self._fitted())
        part = QRectF(
            box.x() + self._visible.x() * box.width(),
            box.y() + self._visible.y() * box.height(),
            max(self._visible.width() * box.width(), 6),
            max(self._visible.height() * box.height(), 6),
        )
        for token, width in ((theme.OUTLINE, 4), (theme.WHITE, 2)):
            painter.setPen(QPen(theme.colour(token), width, j=Qt.PenJoinStyle.MiterJoin))
            painter.drawRect(part)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Go there."""
        self._go(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Follow the pointer."""
        self._go(event.position())

    def _go(self, place: QPointF) -> None:
        if self._image is None:
            return
        box = self._box()
        self._viewport.move_to((place.x() - box.x()) / box.width(), (place.y() - box.y()) / box.height())

    def _fitted(self) -> QPixmap:
        """The picture at the size of the map, scaled once and kept."""
        assert self._image is not None
        size = self._box().size().toSize() * self.devicePixelRatioF()
        if self._scaled.size() != size:
            smooth = Qt.TransformationMode.SmoothTransformation
            image = self._image.scaled(size, Qt.AspectRatioMode.IgnoreAspectRatio, smooth)
            self._scaled = QPixmap.fromImage(image)
            self._scaled.setDevicePixelRatio(self.devicePixelRatioF())
        return self._scaled

    def _box(self) -> QRectF:
        assert self._image is not None
        size = self._image.size().scaled(self.size() - QSize(8, 8), Qt.AspectRatioMode.KeepAspectRatio)
        return QRectF(
            (self.width() - size.width()) / 2,
            (self.height() - size.height()) / 2,
            size.width(),
            size.height(),
        )
