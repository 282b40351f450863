"""Shows a picture, or a sentence that says why there is none."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QWidget

from wamplex.app.shared import theme


class PictureView(QWidget):
    """Holds the picture or the sentence; what is drawn over the picture is up to those who build on it."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._image: QImage | None = None
        self._text = ""

    @property
    def showing(self) -> bool:
        """Whether a picture is on view."""
        return self._image is not None

    def show_text(self, text: str) -> None:
        """Show a sentence instead of a picture."""
        self._image, self._text = None, text
        self.update()

    def _paint_text(self, painter: QPainter) -> None:
        painter.setPen(theme.colour(theme.WHITE))
        painter.setFont(theme.font(16))
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self._text)
