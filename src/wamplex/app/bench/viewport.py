"""The part of the result that all panes show: they share one viewport, so they move together."""

from __future__ import annotations

from PySide6.QtCore import QObject, QRectF, QSizeF, Signal

from wamplex.core.colour.screen_view import PLAIN, ScreenView

ZOOMS = (0.25, 0.33, 0.5, 0.67, 1.0, 1.5, 2.0, 3.0, 4.0, 6.0, 8.0)
LEAST_ZOOM, LARGEST_ZOOM = ZOOMS[0], ZOOMS[-1]


class Viewport(QObject):
    """Centre and zoom.

    The centre is kept as a fraction of the picture, so that it stays on the same place when the
    factor changes; zoom is screen pixels per result pixel, None means that the whole picture fits.
    """

    changed = Signal()

    def __init__(self, view: ScreenView = PLAIN) -> None:
        super().__init__()
        self.view = view
        self.centre_x = 0.5
        self.centre_y = 0.5
        self.zoom: float | None = None

    def set_view(self, view: ScreenView) -> None:
        """Show colours on another screen, or as another print."""
        self.view = view
        self.changed.emit()

    def scale(self, result: QSizeF, pane: QSizeF) -> float:
        """Screen pixels per result pixel in a pane of this size in screen pixels."""
        if self.zoom is not None:
            return self.zoom
        return min(pane.width() / result.width(), pane.height() / result.height(), 1.0)

    def visible(self, result: QSizeF, pane: QSizeF) -> QRectF:
        """The part of the result, in result pixels, that fills a pane; may reach beyond the result.

        Its corner lies on a whole screen pixel, so that at 100 % no pixel is blended.
        """
        scale = self.scale(result, pane)
        width, height = pane.width() / scale, pane.height() / scale
        x = round((self.centre_x * result.width() - width / 2) * scale) / scale
        y = round((self.centre_y * result.height() - height / 2) * scale) / scale
        return QRectF(x, y, width, height)

    def set_zoom(self, zoom: float | None) -> None:
        """Zoom, keeping the centre."""
        if zoom is not None:
            zoom = min(max(zoom, LEAST_ZOOM), LARGEST_ZOOM)
        if zoom != self.zoom:
            self.zoom = zoom
            if zoom is None:
                self.centre_x = self.centre_y = 0.5
            self.changed.emit()

    def step_zoom(self, steps: int, present: float, fixed_point: tuple[float, float] | None = None) -> None:
        """Next larger or smaller zoom; the anchor, a fraction of the picture, stays where it is."""
        larger = [z for z in ZOOMS if z > present * 1.001]
        smaller = [z for z in ZOOMS if z < present * 0.999]
        zoom = larger[0] if steps > 0 and larger else smaller[-1] if steps < 0 and smaller else None
        if zoom is None:
            return
        if fixed_point is not None:
            keep = present / zoom
            self.centre_x = _inside(fixed_point[0] + (self.centre_x - fixed_point[0]) * keep)
            self.centre_y = _inside(fixed_point[1] + (self.centre_y - fixed_point[1]) * keep)
        self.zoom = zoom
        self.changed.emit()

    def move_to(self, centre_x: float, centre_y: float) -> None:
        """Put a place of the picture, as fractions, into the middle."""
        x, y = _inside(centre_x), _inside(centre_y)
        if (x, y) != (self.centre_x, self.centre_y):
            self.centre_x, self.centre_y = x, y
            self.changed.emit()


def _inside(fraction: float) -> float:
    return min(max(fraction, 0.0), 1.0)
