"""Has raw files developed for the bench whenever something is decided about them."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from wamplex.app.assess.assess_step import AssessStep
from wamplex.app.tray.tray import Tray, What
from wamplex.app.workers.developing import Developing, DevelopRequest, NeutralRequest
from wamplex.core.intake.store import PictureStore
from wamplex.core.source import Source


class DevelopingController(QObject):
    """Between the tray, the Assess step and the thread that develops."""

    broke = Signal(str)

    def __init__(self, store: PictureStore, tray: Tray, step: AssessStep, parent: QObject) -> None:
        super().__init__(parent)
        self._tray = tray
        self._worker = Developing(store, self)
        self._worker.developed.connect(tray.set_developed)
        self._worker.picked.connect(step.take_grey)
        self._worker.broke.connect(self.broke)
        step.grey_picked.connect(self._look_at)
        tray.changed.connect(self._entry_changed)

    def start(self) -> None:
        """Start the thread, once the whole window is there."""
        self._worker.start()

    @property
    def busy(self) -> bool:
        """Whether something is being developed."""
        return self._worker.busy

    def end(self) -> None:
        """Stop the thread."""
        self._worker.end()

    def _entry_changed(self, _number: int, what: frozenset[What]) -> None:
        if what & {"file", "development"}:
            self._worker.request(
                [DevelopRequest(e.source, e.decisions.development) for e in self._tray.to_be_developed]
            )

    def _look_at(self, source: Source, across: float, down: float) -> None:
        self._worker.request([NeutralRequest(source, across, down)])
