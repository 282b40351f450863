"""Folds the tray and the panels by key; the tray folds by itself on a small screen."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QWidget

_NARROW_PX = 1150


class Panels(QObject):
    """The side panels of one window."""

    def __init__(self, window: QWidget, tray: QWidget) -> None:
        super().__init__(window)
        self._window, self._tray = window, tray
        window.installEventFilter(self)

    def eventFilter(self, watched_object: QObject, event: QEvent) -> bool:
        """On a small screen the tray folds away; a key brings it back."""
        if isinstance(event, QResizeEvent):
            narrow = event.size().width() < _NARROW_PX
            before = event.oldSize().width()
            if before < 0 or narrow != (before < _NARROW_PX):
                self._tray.setVisible(not narrow)
        return False

    def turn_tray(self) -> None:
        """Hide the tray, or show it."""
        self._tray.setVisible(self._tray.isHidden())

    def turn_panels(self) -> None:
        """Hide the panels of all steps, or show them."""
        panels = [part for part in self._window.findChildren(QWidget) if part.property("role") == "side"]
        hidden = any(panel.isHidden() for panel in panels)
        for panel in panels:
            panel.setVisible(hidden)
