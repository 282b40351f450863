"""The window's own dialogs: networks, preferences, help, about."""

from __future__ import annotations

from typing import TypeVar

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtWidgets import QApplication, QDialog, QWidget

from wamplex.app.shared.theme import apply_theme
from wamplex.app.tray.tray import Tray
from wamplex.app.window.about_dialog import AboutDialog
from wamplex.app.window.guests_dialog import GuestsDialog
from wamplex.app.window.help_sheet import HelpSheet
from wamplex.app.window.networks_dialog import NetworksDialog
from wamplex.app.window.preferences_dialog import PreferencesDialog
from wamplex.app.window.whats_this import WhatsThis
from wamplex.core.model.settings import load_settings

_Dialog = TypeVar("_Dialog", bound=QDialog)


class Dialogs(QObject):
    """Opens each, and announces what was chosen in it."""

    networks_changed = Signal()
    looks_changed = Signal()
    unit_chosen = Signal(str)
    memory_chosen = Signal(float)
    colours_asked = Signal()

    def __init__(self, tray: Tray, window: QWidget) -> None:
        super().__init__(window)
        self._tray, self._window = tray, window
        self._whats_this = WhatsThis(window)

    def networks(self) -> NetworksDialog:
        """Open the dialog for the user's own networks."""
        dialog = NetworksDialog(self._tray.with_trial_of, self._window)
        dialog.changed.connect(self.networks_changed)
        return _shown(dialog)

    def help(self) -> HelpSheet:
        """The job in ten lines, and all keys."""
        return _shown(HelpSheet(self._window))

    def about(self) -> AboutDialog:
        """Versions, licences and network cards."""
        return _shown(AboutDialog(self._window))

    def preferences(self) -> PreferencesDialog:
        """Open the preferences."""
        dialog = PreferencesDialog(self._tray, self.colours_asked.emit, self._window)
        dialog.looks_changed.connect(self.use_looks)
        dialog.unit_chosen.connect(self.unit_chosen)
        dialog.memory_chosen.connect(self.memory_chosen)
        dialog.trials_changed.connect(self._tray.offer_trials_anew)
        dialog.guests_asked.connect(lambda: self.guests(dialog))
        return _shown(dialog)

    def guests(self, preferences: PreferencesDialog) -> GuestsDialog:
        """Open the dialog for stored guests."""
        dialog = GuestsDialog(self._tray.with_trial_of, preferences)
        dialog.changed.connect(preferences.show_guests)
        return _shown(dialog)

    def use_looks(self) -> None:
        """Panels light or dark, as the settings have it."""
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        apply_theme(app, dimmed=load_settings().dimmed)
        self.looks_changed.emit()
        for widget in app.allWidgets():
            widget.update()

    def what(self) -> None:
        """The next thing that is pointed at tells what it is."""
        self._whats_this.begin()


def _shown(dialog: _Dialog) -> _Dialog:
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.show()
    return dialog
