"""A ring around the widget that has keyboard focus, the same for all widgets."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QRect, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QMainWindow, QWidget
from shiboken6 import isValid

from wamplex.app.shared import theme

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
        self._by_key = False

    def leave_by(self, reason: Qt.FocusReason) -> None:
        """The focus is about to leave what has it."""
        self._by_key = reason in _BY_KEY

    def move_to(self, widget: QWidget | None) -> None:
        """The focus has come to a widget, or to none."""
        if self._shown is not None and isValid(self._shown):
            self._shown.follow(None)
        self._shown = None
        if self._by_key and widget is not None and not isinstance(widget, QMainWindow):
            window = widget.window()
            self._shown = window.findChild(FocusRing) or FocusRing(window)
            self._shown.follow(widget)
        self._by_key = False


def _with_all_around(widget: QWidget) -> list[QWidget]:
    """The widget and all that it lies in, up to its window."""
    widgets = [widget]
    while not widgets[-1].isWindow() and (outer := widgets[-1].parentWidget()) is not None:
        widgets.append(outer)
    return widgets


class FocusRing(QWidget):
    """The ring of a window."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self._around: QWidget | None = None
        self._within: list[QWidget] = []
        self.hide()

    def follow(self, widget: QWidget | None) -> None:
        """Lie around a widget, or around none."""
        for inner in self._within:
            if isValid(inner):
                inner.removeEventFilter(self)
        self._around, self._within = widget, [] if widget is None else _with_all_around(widget)
        for inner in self._within:
            inner.installEventFilter(self)
        if widget is None:
            self.hide()
        else:
            self._place(widget)

    def eventFilter(self, watched_object: QObject, event: QEvent) -> bool:
        """The widget has moved, or what it lies in."""
        if event.type() in _MOVES and self._around is not None and isValid(self._around):
            self._place(self._around)
        return False

    def _place(self, widget: QWidget) -> None:
        """Around the part of the widget that is in view."""
        frame_rect = widget.rect().adjusted(-1, -1, 1, 1)
        inner: QWidget | None = widget
        while inner is not None and not inner.isWindow():
            frame_rect.moveTopLeft(inner.mapToParent(frame_rect.topLeft()))
            inner = inner.parentWidget()
            frame_rect = frame_rect.intersected(inner.rect()) if inner is not None else frame_rect
        self.setGeometry(QRect(frame_rect))
        self.setVisible(widget.isVisible() and not frame_rect.isEmpty())
        self.raise_()

    def paintEvent(self, event: QPaintEvent) -> None:
        """A green ring with a white line inside, visible on paper and on pictures."""
        painter = QPainter(self)
        for inset, thick, token in ((0, 2, theme.MOSS), (2, 1, theme.WHITE)):
            painter.setPen(QPen(theme.colour(token), thick))
            half = inset + thick / 2
            painter.drawRect(QRectF(self.rect()).adjusted(half, half, -half, -half))
