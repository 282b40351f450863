"""Asks the desktop for the screen's profile, off the GUI thread: D-Bus may be slow."""

from __future__ import annotations

from PySide6.QtCore import QObject, QThread, Signal

from wamplex.core.colour.desktop_profile import desktop_profile


class ScreenProfileThread(QThread):
    """Asks the desktop for the profile of the screen."""

    ready = Signal(object)  # ScreenProfile, or None

    def __init__(self, output: str, number: int, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._output, self._number = output, number

    def run(self) -> None:
        """The thread's work."""
        self.ready.emit(desktop_profile(self._output, self._number))
