"""Finds the providers networks can run on, off the GUI thread; each is tested in its own process."""

from __future__ import annotations

from PySide6.QtCore import QThread, Signal

from wamplex.core.upscale.networks.execution import usable_providers


class ProvidersThread(QThread):
    """Checks which providers can be used."""

    ready = Signal(object)  # tuple of ONNX Runtime names

    def run(self) -> None:
        """The thread's work."""
        self.ready.emit(usable_providers())
