"""How tests wait for the window and see what it shows."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot

# Only an upper bound: machines that share their processors can be ten times slower for a while.
WAIT_MS = 120_000


def assert_stays(qtbot: QtBot, holds: Callable[[], bool], ms: int) -> None:
    """See that something holds all the time for so long, while the window works."""
    end = time.monotonic() + ms / 1000
    while time.monotonic() < end:
        assert holds()
        qtbot.wait(5)
    assert holds()


def grabbed(widget: QWidget) -> np.ndarray:
    """What a widget shows, uint8 (H, W, 3); a copy, since the image's own memory goes with the image."""
    image = widget.grab().toImage().convertToFormat(QImage.Format.Format_RGB888)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : image.width() * 3].reshape(image.height(), image.width(), 3).copy()
