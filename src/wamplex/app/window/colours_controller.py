"""How colours are shown, kept for the whole window: the screen's profile, and the proof of a print."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Qt
from PySide6.QtWidgets import QWidget

from wamplex.app.tray.tray import Tray
from wamplex.app.window.colours_dialog import ColoursDialog, view_words
from wamplex.app.window.status_line import StatusLine
from wamplex.core.colour.proof import read_profile
from wamplex.core.colour.view import View
from wamplex.core.errors import DeliveryError
from wamplex.core.settings import load_settings, save_settings


class ColoursController(QObject):
    """Tells the steps when colours are to be shown otherwise.

    Parameters
    ----------
    show : called with each new view
    """

    def __init__(self, parent: QWidget, tray: Tray, status: StatusLine, show: Callable[[View], None]) -> None:
        super().__init__(parent)
        self._window, self._tray, self._status, self._show_view = parent, tray, status, show
        self.view = View()
        self._names = ("sRGB", "none")
        kept = load_settings().screen_profile
        if kept:
            try:
                self.view = View(screen=read_profile(Path(kept), (3,)))
                self._names = (Path(kept).name, "none")
            except DeliveryError:
                pass  # the file is gone: sRGB, as the status line says
        self._show()

    def open(self) -> ColoursDialog:
        """Open the dialog."""
        dialog = ColoursDialog(self.view, self._names, self._tray.current, self._window)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.changed.connect(lambda view: self._take(view, dialog))
        dialog.screen_chosen.connect(_keep_screen)
        dialog.show()
        return dialog

    def _take(self, view: View, dialog: ColoursDialog) -> None:
        self.view, self._names = view, dialog.names
        self._show()

    def _show(self) -> None:
        self._status.show_colours(view_words(self.view, self._names))
        self._show_view(self.view)


def _keep_screen(path: Path | None) -> None:
    save_settings(load_settings().having(screen_profile="" if path is None else str(path)))
