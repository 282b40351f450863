"""Hides everything except the bench, and shows it again."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

_ASIDE = ("side", "bar", "tray", "top", "status")


class FullView:
    """Tray, rail, bars, panels and status line of a window."""

    def __init__(self, window: QWidget) -> None:
        self._window = window
        self._hidden: list[QWidget] | None = None

    def turn(self) -> None:
        """Hide them, or show those again that were hidden."""
        if self._hidden is None:
            parts = [w for w in self._window.findChildren(QWidget) if w.property("role") in _ASIDE]
            self._hidden = [part for part in parts if not part.isHidden()]
            for part in self._hidden:
                part.hide()
        else:
            for part in self._hidden:
                part.show()
            self._hidden = None
