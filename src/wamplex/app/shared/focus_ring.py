"""A ring around whatever the keyboard has reached, the same for all controls and pictures."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QRect, QRectF, Qt
from PySide6.QtGui import QFocusEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QMainWindow, QWidget
from shiboken6 import isValid

from wamplex.app import theme

_BY_KEY = (
    Qt.FocusReason.TabFocusReason,
    Qt.FocusReason.BacktabFocusReason,
    Qt.FocusReason.ShortcutFocusReason,
)
_MOVES = (QEvent.Type.Move, QEvent.Type.Resize, QEvent.Type.Hide)


class FocusRings:
    """Follows the focus while it is moved by keys; a mouse shows by itself where it is.

    Each window has a ring of its own, which goes with it.
    """

    def __init__(self) -> None:
        self._shown: FocusRing | None = None

    def watch(self, watched: QObject, event: QEvent) -> None:
        """See an event of any object."""
        if isinstance(event, QFocusEvent):
            if not isinstance(watched, QWidget):
                return  # windows and styles are told, too
            self._leave()
            entered = event.type() == QEvent.Type.FocusIn and event.reason() in _BY_KEY
            if entered and not isinstance(watched, QMainWindow):
                window = watched.window()
                self._shown = window.findChild(FocusRing) or FocusRing(window)
                self._shown.follow(watched)
        elif self._shown is not None and event.type() in _MOVES:
            self._shown.keep_up(watched)

    def _leave(self) -> None:
        if self._shown is not None:
            self._shown.follow(None)
        self._shown = None


class FocusRing(QWidget):
    """The ring of a window."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self._around: QWidget | None = None
        self.hide()

    def follow(self, widget: QWidget | None) -> None:
        """Lie around a widget, or around none."""
        self._around = widget
        if widget is None:
            if isValid(self):
                self.hide()
        else:
            self._place(widget)

    def keep_up(self, moved: QObject) -> None:
        """Something has moved: perhaps the widget, or what it lies in."""
        around = self._around
        if around is None or not isinstance(moved, QWidget) or not isValid(around) or not isValid(self):
            return
        if moved is around or moved.isAncestorOf(around):
            self._place(around)

    def _place(self, widget: QWidget) -> None:
        """Around the part of the widget that is in view."""
        seen = widget.rect().adjusted(-1, -1, 1, 1)
        inner: QWidget | None = widget
        while inner is not None and not inner.isWindow():
            seen.moveTopLeft(inner.mapToParent(seen.topLeft()))
            inner = inner.parentWidget()
            seen = seen.intersected(inner.rect()) if inner is not None else seen
        self.setGeometry(QRect(seen))
        self.setVisible(widget.isVisible() and not seen.isEmpty())
        self.raise_()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Moss, with white inside it, to be seen on paper and on pictures alike."""
        painter = QPainter(self)
        for inset, thick, token in ((0, 2, theme.MOSS), (2, 1, theme.WHITE)):
            painter.setPen(QPen(theme.colour(token), thick))
            half = inset + thick / 2
            painter.drawRect(QRectF(self.rect()).adjusted(half, half, -half, -half))
