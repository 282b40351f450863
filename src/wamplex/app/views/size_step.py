"""The Size step: factor, pixels and print size as one thing seen three ways."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from wamplex.app import theme
from wamplex.app.models.tray import Entry, Tray
from wamplex.app.views.parts import image_of, plain_widget
from wamplex.app.views.size_panel import SizePanel
from wamplex.app.views.size_table import SizeTable


class SizeStep(QWidget):
    """Bench and panel of the Size step."""

    def __init__(self, tray: Tray) -> None:
        super().__init__()
        self._tray = tray
        self._shown: int | None = None
        self.picture = PictureView()
        self.table = SizeTable()
        self.panel = SizePanel()
        bench = plain_widget("bench")
        inside = QVBoxLayout(bench)
        inside.setContentsMargins(22, 22, 22, 22)
        inside.setSpacing(20)
        inside.addWidget(self.picture, 1)
        inside.addWidget(self.table)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(bench, 1)
        whole.addWidget(self.panel)
        self.panel.chosen.connect(self._choose)
        self.table.chosen.connect(self._choose)
        self.panel.unit_changed.connect(lambda _unit: self.refresh())
        tray.selected.connect(lambda _number: self.refresh())
        tray.changed.connect(self._entry_changed)
        self.refresh()

    def refresh(self) -> None:
        """Show the selected entry."""
        entry = self._tray.current
        usable = entry is not None and entry.usable
        self.table.setVisible(usable)
        self.panel.setEnabled(usable)
        if entry is None or not usable or entry.size is None:
            self.picture.show_words("Add pictures: drop them here, or press Ctrl+O.")
            return
        if self._shown != entry.number and entry.thumbnail is not None:
            self._shown = entry.number
            self.picture.show_image(image_of(entry.thumbnail))
        self.panel.show_entry(entry, entry.size)
        self.table.show_size(entry.size, self.panel.unit)

    def _entry_changed(self, number: int) -> None:
        current: Entry | None = self._tray.current
        if current is not None and current.number == number:
            self.refresh()

    def _choose(self, size: object) -> None:
        entry = self._tray.current
        if entry is not None:
            self._tray.set_size(entry.number, size)  # type: ignore[arg-type]


class PictureView(QWidget):
    """A picture as large as fits, or a sentence."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("The picture")
        self._image: QImage | None = None
        self._words = ""

    @property
    def showing(self) -> bool:
        """Whether a picture is on view."""
        return self._image is not None

    def show_image(self, image: QImage) -> None:
        """Show a picture."""
        self._image, self._words = image, ""
        self.update()

    def show_words(self, words: str) -> None:
        """Show a sentence instead."""
        self._image, self._words = None, words
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint it in the middle."""
        painter = QPainter(self)
        if self._image is None:
            painter.setPen(theme.colour(theme.WHITE))
            painter.setFont(theme.font(16))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self._words)
            return
        fitted = self._image.size().scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        left, top = (self.width() - fitted.width()) / 2, (self.height() - fitted.height()) / 2
        painter.drawImage(QRectF(left, top, fitted.width(), fitted.height()), self._image)
