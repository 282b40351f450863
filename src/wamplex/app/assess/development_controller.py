"""Renders raw files anew when a decision about their development changes."""

from __future__ import annotations

from PySide6.QtCore import QObject, QTimer, Signal

from wamplex.app.assess.assess_step import AssessStep
from wamplex.app.tray.change_kinds import ChangeKind
from wamplex.app.tray.tray import Tray
from wamplex.app.workers.rendering.developing import DevelopmentWorker, DevelopRequest, NeutralRequest
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.model.development import Development
from wamplex.core.model.source import Source

_SETTLE_MS = 800


class DevelopmentController(QObject):
    """Between the tray, the Assess step and the thread that develops."""

    broke = Signal(str)
    measuring_asked = Signal(object, object)  # Source, Development

    def __init__(self, store: PictureCache, tray: Tray, step: AssessStep, parent: QObject) -> None:
        super().__init__(parent)
        self._tray = tray
        self._worker = DevelopmentWorker(store, self)
        self._measured: dict[Source, Development] = {}
        self._settled = QTimer(self)
        self._settled.setSingleShot(True)
        self._settled.setInterval(_SETTLE_MS)
        self._settled.timeout.connect(self._measure_again)
        self._worker.developed.connect(tray.thumbnails.set_developed)
        self._worker.developed.connect(lambda *_: self._settled.start())
        self._worker.picked.connect(step.take_grey)
        self._worker.broke.connect(self.broke)
        step.grey_picked.connect(self._look_at)
        tray.changed.connect(self._entry_changed)
        tray.selected.connect(self._selected)

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

    def _entry_changed(self, number: int, changes: frozenset[ChangeKind]) -> None:
        if changes & {"file", "development"} and self._tray.entry(number).raw:
            self._worker.request(self._to_be_developed)

    def _selected(self, _number: int) -> None:
        entry = self._tray.current
        if entry is not None and entry.raw:
            self._worker.request(self._to_be_developed)

    def _measure_again(self) -> None:
        """Measure again, as developed, once the sliders rest."""
        for entry in self._tray.usable:
            development = entry.decisions.development
            if entry.raw and development == entry.developed_as != self._measured.get(entry.source, Development()):
                self._measured[entry.source] = development
                self.measuring_asked.emit(entry.source, development)

    def _look_at(self, source: Source, across: float, down: float) -> None:
        # A request takes the place of those that wait, so that they are asked for once more.
        self._worker.request([NeutralRequest(source, across, down), *self._to_be_developed])

    @property
    def _to_be_developed(self) -> list[DevelopRequest | NeutralRequest]:
        return [DevelopRequest(e.source, e.decisions.development) for e in self._tray.thumbnails.to_be_developed]
