"""The colour view of the whole window: screen profile and soft proof."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QGuiApplication, QScreen
from PySide6.QtWidgets import QWidget

from wamplex.app.shared.status_line import StatusLine
from wamplex.app.tray.tray import Tray
from wamplex.app.window.colours_dialog import ColoursDialog, view_text
from wamplex.app.workers.machine.screen_profile import ScreenProfileThread
from wamplex.core.base.errors import DeliveryError
from wamplex.core.colour.desktop_profile import ScreenProfile
from wamplex.core.colour.screen_view import ScreenView
from wamplex.core.colour.soft_proof import read_profile
from wamplex.core.model.settings import SRGB_SCREEN, load_settings, save_settings


class ColoursController(QObject):
    """Tells the steps when colours are to be shown otherwise.

    Parameters
    ----------
    show : called with each new view
    """

    def __init__(self, parent: QWidget, tray: Tray, status: StatusLine, show: Callable[[ScreenView], None]) -> None:
        super().__init__(parent)
        self._window, self._tray, self._status, self._show_view = parent, tray, status, show
        self.view = ScreenView()
        self._names = ("sRGB", "none")
        self._thread: ScreenProfileThread | None = None
        self._asked_about: QScreen | None = None
        self._dialog: ColoursDialog | None = None
        self._watched = False
        self._use_saved()
        self._show()
        parent.installEventFilter(self)

    def eventFilter(self, watched_object: QObject, event: QEvent) -> bool:
        """Once the window is shown, it has a screen; it may be moved to others."""
        if event.type() == QEvent.Type.Show and not self._watched:
            self._watched = True
            handle = self._window.windowHandle()
            if handle is not None:
                handle.screenChanged.connect(lambda _screen: self._ask_desktop())
            self._ask_desktop()
        return False

    def open(self) -> ColoursDialog:
        """Open the dialog."""
        dialog = ColoursDialog(self.view, self._names, self._tray.current, self._window)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.changed.connect(lambda view: self._take(view, dialog))
        dialog.screen_chosen.connect(self._keep_screen)
        dialog.destroyed.connect(self._closed)
        self._dialog = dialog
        dialog.show()
        return dialog

    def end(self) -> None:
        """The window closes; an answer of the desktop is no longer waited for longer than it takes."""
        if self._thread is not None:
            self._thread.wait()

    def _closed(self) -> None:
        self._dialog = None

    def _take(self, view: ScreenView, dialog: ColoursDialog) -> None:
        self.view, self._names = view, dialog.names
        self._show()

    def _show(self) -> None:
        self._status.show_colours(view_text(self.view, self._names))
        self._show_view(self.view)

    def _use_saved(self) -> None:
        profile = load_settings().screen_profile
        if profile and profile != SRGB_SCREEN:
            try:
                self.view = ScreenView(screen=read_profile(Path(profile), (3,)))
                self._names = (Path(profile).name, "none")
            except DeliveryError:
                pass  # the file is gone: sRGB, as the status line says

    def _keep_screen(self, chosen: str) -> None:
        try:
            save_settings(load_settings().replace(screen_profile=chosen))
        finally:  # the profile counts in this session, whether it could be saved or not
            self._ask_desktop()

    def _ask_desktop(self) -> None:
        if load_settings().screen_profile or self._thread is not None:
            return
        screen = self._asked_about = self._window.screen()
        thread = ScreenProfileThread(screen.name(), QGuiApplication.screens().index(screen), self)
        self._thread = thread
        thread.ready.connect(self._use_profile)
        thread.finished.connect(self._asked)
        thread.start()

    def _use_profile(self, profile: ScreenProfile | None) -> None:
        if load_settings().screen_profile or self._next_state:
            return  # chosen, or moved meanwhile
        name = "sRGB" if profile is None else profile.whence
        screen = None if profile is None else profile.profile
        self.view, self._names = replace(self.view, screen=screen), (name, self._names[1])
        if self._dialog is not None:
            self._dialog.show_screen(screen, name)
        self._show()

    def _asked(self) -> None:
        if self._thread is not None:
            self._thread.wait()
        self._thread = None
        if self._next_state:
            self._ask_desktop()

    @property
    def _next_state(self) -> bool:
        """Whether the window has gone to another screen than the one whose profile is asked for."""
        return self._asked_about is not self._window.screen()
