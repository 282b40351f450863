"""Tests a network of the user's and adds it if it works, off the GUI thread."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, QThread, Signal

from wamplex.core.base.errors import UpscalerError, user_message
from wamplex.core.trial.registry import known_upscalers
from wamplex.core.upscale.user_networks.network_store import add_user_network


class TryNetwork(QThread):
    """One network; its trial has limits of its own on time and memory."""

    added = Signal(object)  # OwnUpscaler
    refused = Signal(str)

    def __init__(self, path: Path, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._path = path

    def run(self) -> None:
        """The thread's work."""
        try:
            upscaler = add_user_network(self._path, used_keys=tuple(upscaler.key for upscaler in known_upscalers()))
        except UpscalerError as error:
            self.refused.emit(str(error))
        except Exception as error:
            self.refused.emit(user_message(error, f"There is not enough memory to try {self._path.name}."))
        else:
            self.added.emit(upscaler)
