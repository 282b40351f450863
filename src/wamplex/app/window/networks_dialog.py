"""The user's own networks: added after a trial, renamed, removed."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import (
    QDialog,
    QFileDialog,
    QLineEdit,
    QListWidget,
    QProgressBar,
    QVBoxLayout,
    QWidget,
)

from wamplex.app.shared.widgets import button, label, row, set_tooltip
from wamplex.app.workers.files.try_network import TryNetwork
from wamplex.core.base.errors import UpscalerError
from wamplex.core.upscale.user_networks.network_store import (
    remove_user_network,
    rename_user_network,
    user_upscalers,
)
from wamplex.core.upscale.user_networks.user_upscaler import UserUpscaler


class NetworksDialog(QDialog):
    """A list, and what can be done with its rows.

    Parameters
    ----------
    in_use : gives the name of a picture whose trials have an upscaler, None where none has
    """

    changed = Signal()

    def __init__(self, in_use: Callable[[str], str | None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Your own networks")
        self.resize(560, 400)
        self._in_use = in_use
        self._thread: TryNetwork | None = None
        self._shown: tuple[UserUpscaler, ...] = ()
        self.list = QListWidget()
        self.list.setAccessibleName("Networks that were added")
        self.list.currentRowChanged.connect(lambda _row: self._show_chosen())
        self.name = QLineEdit()
        set_tooltip(self.name, "Name", "Name of the network in the list of upscalers")
        self.rename_button = button("Rename", "Rename the network", self.rename)
        self.remove_button = button("Remove", "Remove the network from the list", self.remove)
        tip = "Test an ONNX network (picture in, picture out) and add it"
        self.add_button = button("Add a network…", tip, self._ask, "main")
        self._bar = QProgressBar()
        self._bar.setRange(0, 0)  # how long a trial takes is not known before
        self._bar.hide()
        self._text = label("", "small", wrap=True)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(18, 14, 18, 14)
        inside.addWidget(label("ONNX networks that enlarge. Each is tested before it is listed", "heading"))
        inside.addWidget(self.list, 1)
        inside.addLayout(row(self.name, self.rename_button, self.remove_button))
        inside.addWidget(self._bar)
        inside.addWidget(self._text)
        inside.addLayout(row(None, button("Close", "Close this window", self.close), self.add_button))
        self._fill()

    @property
    def text(self) -> str:
        """Text on the last action."""
        return self._text.text()

    def add(self, path: Path) -> None:
        """Try a network; it is listed when it works."""
        if self._thread is not None:
            return
        self._text.setText(f"Testing {path.name} at several sizes in a separate process…")
        self._bar.show()
        self.add_button.setEnabled(False)
        self._thread = TryNetwork(path, self)
        self._thread.added.connect(self._added)
        self._thread.refused.connect(self._ended)
        self._thread.start()

    def rename(self) -> None:
        """Give the chosen network another name."""
        self._do(lambda own: rename_user_network(own.key, self.name.text()), "Renamed.")

    def remove(self) -> None:
        """Take the chosen network off the list, unless a trial has it."""
        own = self._chosen
        picture = None if own is None else self._in_use(own.key)
        if own is not None and picture is not None:
            self._text.setText(f"{picture} has a trial with this network. Close that picture first.")
            return
        self._do(lambda chosen: remove_user_network(chosen.key), "Removed from the list.")

    def closeEvent(self, event: QCloseEvent) -> None:
        """A trial under way ends by its own limits; what it found is not waited for."""
        if self._thread is not None:
            self._thread.wait()
        super().closeEvent(event)

    @property
    def _chosen(self) -> UserUpscaler | None:
        place = self.list.currentRow()
        return self._shown[place] if 0 <= place < len(self._shown) else None

    def _do(self, act: Callable[[UserUpscaler], object], text: str) -> None:
        own = self._chosen
        if own is None:
            return
        try:
            act(own)
        except (UpscalerError, OSError) as error:
            self._text.setText(str(error))
            return
        self._fill()
        self._text.setText(text)
        self.changed.emit()

    def _added(self, upscaler: UserUpscaler) -> None:
        self._ended(f"{upscaler.name} works. {upscaler.purpose}")
        self._fill()
        self.changed.emit()

    def _ended(self, text: str) -> None:
        if self._thread is not None:
            self._thread.wait()
        self._thread = None
        self._bar.hide()
        self.add_button.setEnabled(True)
        self._text.setText(text)

    def _fill(self) -> None:
        self._shown = user_upscalers()
        self.list.clear()
        self.list.addItems([f"{own.name} — {own.purpose}" for own in self._shown])
        self.list.setCurrentRow(0 if self._shown else -1)
        self._show_chosen()

    def _show_chosen(self) -> None:
        own = self._chosen
        self.name.setText("" if own is None else own.name)
        for part in (self.name, self.rename_button, self.remove_button):
            part.setEnabled(own is not None)

    def _ask(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self, "A network", "", "ONNX networks (*.onnx)")
        if chosen:
            self.add(Path(chosen))
