"""A result from its file beside its source, at the spots."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QSize, Qt, QUrl, Signal
from PySide6.QtGui import QDesktopServices, QImage, QPainter, QPaintEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from wamplex.app.shared.images import to_image
from wamplex.app.shared.widgets import button, clear, label, plain_widget, row
from wamplex.app.workers.rendering.result_crops import ResultCropRequest, ResultCropWorker
from wamplex.core.analysis.content.spots import Spot
from wamplex.core.base.window import Window
from wamplex.core.geometry.sheet import picture_corner
from wamplex.core.geometry.size_text import byte_size_text
from wamplex.core.model.finish_values import Finish
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.readings.catalogue import READINGS

_MIDDLE = Spot(0.5, 0.5, "own", "Middle")
_SHOWN = ("ringing", "softness", "noise", "block-marks", "round-trip")


@dataclass(frozen=True)
class Result:
    """A file, what it was made of, and how.

    Attributes
    ----------
    width, height : of the source, in pixels
    spots : at shares of what the recipe's framing leaves
    complete : whether all parts of the recipe are at hand, such as its masks
    """

    path: Path
    source: Source
    recipe: Recipe
    width: int
    height: int
    spots: tuple[Spot, ...] = ()
    complete: bool = True

    @property
    def plain(self) -> Recipe:
        """The source plainly enlarged."""
        return self.recipe.replace(base=TrialSpec(upscaler="bicubic"), sheet=None).finished(Finish())


class ResultView(QWidget):
    """Source at the left, file at the right, both at 100 %."""

    trial_asked = Signal(object)  # Result
    closed = Signal()

    def __init__(self, looks: ResultCropWorker) -> None:
        super().__init__()
        self.setProperty("role", "bench")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground, True)
        self._looks = looks
        self.result: Result | None = None
        self._spot = _MIDDLE
        self.asked: ResultCropRequest | None = None  # what is being made, or shown
        self._name = label("", "strong")
        self._about = label("", "small")
        self._readings = label("", "small", wrap=True)
        self._spots = row(spacing=4)
        self.panes = (_Shown("the source, enlarged by interpolation"), _Shown("the file"))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self._bar())
        panes = row(*self.panes, spacing=8)
        panes.setContentsMargins(10, 8, 10, 8)
        layout.addLayout(panes, 1)
        foot = plain_widget("bar")
        foot.setLayout(row(self._readings))
        foot.layout().setContentsMargins(10, 4, 10, 4)  # type: ignore[union-attr]
        layout.addWidget(foot)
        for pane in self.panes:
            pane.resized.connect(self._request)
        looks.file_read.connect(partial(self._came, 1))
        looks.source_ready.connect(partial(self._came, 0))
        looks.measured.connect(self._measured)
        looks.failed.connect(self._failed)

    @property
    def text(self) -> str:
        """Text on the result: name, size, readings."""
        return f"{self._name.text()} {self._about.text()} {self._readings.text()}"

    def show_result(self, result: Result) -> None:
        """Show a file and its source, at the first spot."""
        self.result = result
        size = result.recipe.size(result.width, result.height)
        self._name.setText(result.path.name)
        try:
            weight = byte_size_text(result.path.stat().st_size)
        except OSError:
            weight = "file not found"
        self._about.setText(f"{size.width_px} × {size.height_px} px, {weight}")
        clear(self._spots)
        self._buttons: list[tuple[Spot, QPushButton]] = []
        for spot in result.spots[:6] or (_MIDDLE,):
            spot_button = button(spot.name, f"Look at this place: {spot.name}", partial(self.look_at, spot))
            spot_button.setCheckable(True)
            self._buttons.append((spot, spot_button))
            self._spots.addWidget(spot_button)
        self.look_at(self._buttons[0][0])

    def look_at(self, spot: Spot) -> None:
        """Show another place of both."""
        self._spot = spot
        for other, spot_button in self._buttons:
            spot_button.setChecked(other is spot)
        for pane in self.panes:
            pane.forget()
        self.asked = None
        self._readings.setText("measuring…" if self._places else "")
        self._request()

    def step(self, by: int) -> None:
        """The next spot, or the one before."""
        places = [spot for spot, _ in self._buttons]
        self.look_at(places[(places.index(self._spot) + by) % len(places)])

    @property
    def _places(self) -> tuple[tuple[float, float], ...]:
        if self.result is None or not self.result.complete:
            return ()
        return ((self._spot.x, self._spot.y),)

    def _request(self) -> None:
        if self.result is not None and self.isVisible() and self._look() != self.asked:
            self.asked = self._look()
            self._looks.request([self.asked])

    def _look(self) -> ResultCropRequest:
        assert self.result is not None
        result, crop_place = self.result, self.panes[1].room
        size = result.recipe.size(result.width, result.height)
        width, height = min(crop_place.width(), size.width_px), min(crop_place.height(), size.height_px)
        left = round(min(max(self._spot.x * size.width_px - width / 2, 0), size.width_px - width))
        top = round(min(max(self._spot.y * size.height_px - height / 2, 0), size.height_px - height))
        recipe = result.recipe.replace(sheet=None)
        return ResultCropRequest(
            result.path,
            result.source,
            recipe,
            result.plain,
            Window(left, top, width, height),
            picture_corner(size, result.recipe.sheet),
            self._places,
        )

    def _came(self, pane: int, look: ResultCropRequest, pixels: NDArray[np.uint8]) -> None:
        if look == self.asked:
            self.panes[pane].show_pixels(pixels)

    def _measured(self, look: ResultCropRequest, values: dict[str, float]) -> None:
        if look == self.asked:
            texts = [f"{r.name} {values[r.key]:.2f} {r.unit}" for r in READINGS if r.key in _SHOWN]
            self._readings.setText("At this place: " + " · ".join(texts))

    def _failed(self, look: ResultCropRequest, sentence: str) -> None:
        if look == self.asked:
            self._readings.setText(sentence)

    def _bar(self) -> QWidget:
        bar = plain_widget("bar")
        trial = button("show in Trial", "Open the source in the Trial step", self._to_trial, "link")
        opened = button("open", "Open the file in its default program", self._open_file, "link")
        folder = button("show in folder", "Open the folder of the file", self._open_folder, "link")
        close = button("close", "Hide the comparison", self._close, "link")
        inside = QVBoxLayout(bar)
        inside.setContentsMargins(10, 5, 10, 5)
        inside.addLayout(row(self._name, self._about, None, trial, opened, folder, close, spacing=10))
        inside.addLayout(row(self._spots_widget(), None))
        return bar

    def _spots_widget(self) -> QWidget:
        widget = QWidget()
        widget.setLayout(self._spots)
        return widget

    def _to_trial(self) -> None:
        self.trial_asked.emit(self.result)

    def _open_file(self) -> None:
        if self.result is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(self.result.path)))

    def _open_folder(self) -> None:
        if self.result is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(self.result.path.parent)))

    def showEvent(self, event: QShowEvent) -> None:
        """Render what was requested while another step was open."""
        super().showEvent(event)
        self._request()

    def _close(self) -> None:
        self.result = self.asked = None
        self.hide()
        self.closed.emit()


class _Shown(QWidget):
    """Pixels as they are, each on a pixel of the screen, with words below."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self._pixels = _Pixels(text)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(4)
        inside.addWidget(self._pixels, 1)
        inside.addWidget(label(text, "spot-kind"))
        self.resized = self._pixels.resized
        self.pixels: NDArray[np.uint8] | None = None

    @property
    def room(self) -> QSize:
        """How many pixels fit."""
        size = self._pixels.size() * self.devicePixelRatioF()
        return size.expandedTo(QSize(16, 16))

    def show_pixels(self, pixels: NDArray[np.uint8]) -> None:
        """(h, w, 3) uint8."""
        self.pixels = pixels
        self._pixels.show_image(to_image(pixels))

    def forget(self) -> None:
        """Show nothing until pixels come."""
        self.pixels = None
        self._pixels.show_image(None)


class _Pixels(QWidget):
    """An image in the middle, unscaled."""

    resized = Signal()

    def __init__(self, text: str) -> None:
        super().__init__()
        self.setAccessibleName(text)
        self.setMinimumSize(60, 60)
        self._image: QImage | None = None

    def show_image(self, image: QImage | None) -> None:
        """Show this, or nothing."""
        self._image = image
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint it."""
        if self._image is not None:
            self._image.setDevicePixelRatio(self.devicePixelRatioF())
            size = self._image.deviceIndependentSize().toSize()
            left, top = (self.width() - size.width()) // 2, (self.height() - size.height()) // 2
            QPainter(self).drawImage(left, top, self._image)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """There is room for more or fewer pixels."""
        self.resized.emit()
