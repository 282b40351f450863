"""The window's own dialogs: networks, preferences, help, about."""

from __future__ import annotations

from typing import TYPE_CHECKING, TypeVar

from PySide6.QtCore import QObject, Qt
from PySide6.QtWidgets import QApplication, QDialog

from wamplex.app.theme import apply_theme
from wamplex.app.window.about_dialog import AboutDialog
from wamplex.app.window.explaining import Explaining
from wamplex.app.window.guests_dialog import GuestsDialog
from wamplex.app.window.help_sheet import HelpSheet
from wamplex.app.window.networks_dialog import NetworksDialog
from wamplex.app.window.preferences_dialog import PreferencesDialog
from wamplex.core.settings import load_settings

if TYPE_CHECKING:
    from wamplex.app.window.main_window import MainWindow

_Dialog = TypeVar("_Dialog", bound=QDialog)


class Dialogs(QObject):
    """Opens each, and tells the window's parts what was chosen in it."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self._window = window
        self._explaining = Explaining(window)

    def networks(self) -> NetworksDialog:
        """What adds, renames and removes the user's own networks."""
        dialog = NetworksDialog(self._window.tray.with_trial_of, self._window)
        dialog.changed.connect(self._window.trial_step.refresh)
        return _shown(dialog)

    def help(self) -> HelpSheet:
        """The job in ten lines, and all keys."""
        return _shown(HelpSheet(self._window))

    def about(self) -> AboutDialog:
        """Versions, licences and network cards."""
        return _shown(AboutDialog(self._window))

    def preferences(self) -> PreferencesDialog:
        """What holds for every picture."""
        window = self._window
        dialog = PreferencesDialog(window.tray, window.colours.open, window)
        dialog.looks_changed.connect(self.use_looks)
        dialog.unit_chosen.connect(window.size_step.panel.use_unit)
        dialog.memory_chosen.connect(window.store.keep_up_to)
        dialog.trials_changed.connect(window.tray.offer_trials_anew)
        dialog.guests_asked.connect(lambda: self.guests(dialog))
        return _shown(dialog)

    def guests(self, preferences: PreferencesDialog) -> GuestsDialog:
        """What files enlarged elsewhere take of the disk."""
        dialog = GuestsDialog(self._window.tray.with_trial_of, preferences)
        dialog.changed.connect(preferences.show_guests)
        return _shown(dialog)

    def use_looks(self) -> None:
        """Panels light or dark, as the settings have it."""
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        apply_theme(app, dimmed=load_settings().dimmed)
        self._window.rail.show_step(self._window.rail.step)
        for widget in app.allWidgets():
            widget.update()

    def what(self) -> None:
        """The next thing that is pointed at tells what it is."""
        self._explaining.begin()


def _shown(dialog: _Dialog) -> _Dialog:
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.show()
    return dialog
