"""Converts pixel arrays to Qt images."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPixmap

from wamplex.app.shared import theme


def to_image(pixels: NDArray[np.uint8]) -> QImage:
    """(h, w, 3) uint8 as an image of its own, in the format that is painted fastest."""
    height, width = pixels.shape[:2]
    packed = np.ascontiguousarray(pixels)
    view = QImage(packed.data, width, height, 3 * width, QImage.Format.Format_RGB888)
    return view.convertToFormat(QImage.Format.Format_RGB32)


def mask_overlay_image(opacity: NDArray[np.uint8]) -> QImage:
    """(h, w) uint8 as a veil in the colour of the bench, clear where it is 0."""
    return _fill_colour(opacity, theme.colour(theme.BENCH))


def _fill_colour(opacity: NDArray[np.uint8], shade: QColor) -> QImage:
    height, width = opacity.shape
    packed = np.empty((height, width, 4), np.uint8)
    packed[...] = (shade.red(), shade.green(), shade.blue(), 0)
    packed[..., 3] = opacity
    view = QImage(packed.data, width, height, 4 * width, QImage.Format.Format_RGBA8888)
    return view.convertToFormat(QImage.Format.Format_ARGB32_Premultiplied)


def tint_image(weight: NDArray[np.uint8]) -> QImage:
    """(h, w) uint8 as a tint in the accent's colour, clear where it is 0."""
    return _fill_colour(weight // 2, theme.colour(theme.MOSS))


def dim_image(image: QImage) -> QImage:
    """A picture faded into the bench, as a sign that the real pixels are still being made."""
    faded = QImage(image.size(), QImage.Format.Format_RGB32)
    faded.fill(theme.colour(theme.BENCH))
    painter = QPainter(faded)
    painter.setOpacity(0.35)
    painter.drawImage(0, 0, image)
    painter.end()
    return faded


def to_pixmap(pixels: NDArray[np.uint8], width: int, height: int, ratio: float) -> QPixmap:
    """(h, w, 3) uint8 scaled to fit a box in logical pixels."""
    image = to_image(pixels).scaled(
        round(width * ratio),
        round(height * ratio),
        Qt.AspectRatioMode.KeepAspectRatio,
        Qt.TransformationMode.SmoothTransformation,
    )
    image.setDevicePixelRatio(ratio)
    return QPixmap.fromImage(image)
