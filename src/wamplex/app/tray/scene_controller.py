"""Frames of one scene, chosen in the tray, are joined under one of them."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.tray import Tray
from wamplex.app.workers.rendering.scenes import SceneAligner, SceneRequest
from wamplex.core.frames.concert import CONCERT
from wamplex.core.frames.fit import SceneFit


class SceneController(QObject):
    """Has frames aligned, and gives the reference its trial of Concert."""

    announced = Signal(str)
    warned = Signal(str)

    def __init__(self, tray: Tray, aligner: SceneAligner, parent: QObject) -> None:
        super().__init__(parent)
        self._tray, self._aligner = tray, aligner
        aligner.ready.connect(self._take)
        aligner.failed.connect(self.warned)
        aligner.stopped.connect(lambda: self.announced.emit("The frames were not joined"))

    def join(self, reference: int) -> None:
        """Align the chosen pictures to one of them."""
        entry = self._tray.entry(reference)
        others = [e for e in self._tray.chosen if e.number != reference]
        unread = [e.path.name for e in (entry, *others) if not e.usable]
        if unread:
            self.warned.emit(f"{unread[0]} cannot be read, so it cannot be joined.")
            return
        if not others:
            self.warned.emit("Choose two or more frames of one scene in the tray first.")
            return
        self._aligner.request([_request(entry, others)])

    def separate(self, reference: int) -> None:
        """The picture stands alone again."""
        entry = self._tray.entry(reference)
        self._tray.set_frames(reference, None, entry.trials.without(CONCERT.key))
        self.announced.emit(f"The frames of {entry.path.name} are separated")

    def _take(self, request: SceneRequest, fit: SceneFit) -> None:
        """The frames are aligned."""
        entry = self._tray.entry(request.entry)
        if not entry.usable or entry.source != request.source:
            return
        left_out = [f"{text}." for text in fit.left_out]
        if fit.frame_set is None:
            self.warned.emit(" ".join(["No frame can be joined.", *left_out]))
            return
        count = len(fit.joined) + 1
        trials = entry.trials.tried(CONCERT.key, f"here {count} frames")
        concert = next((t for t in trials.rows if t.upscaler_key == CONCERT.key), None)
        if concert is None:
            self.warned.emit("There is no room for another trial. Strike one, then join the frames again.")
            return
        if concert.struck:
            trials = trials.put_back(concert.letter)
        self._tray.set_frames(request.entry, fit.frame_set, trials.activate(concert.letter))
        self.announced.emit(f"{count} frames are joined in trial {concert.letter}, Concert")
        if left_out:
            self.warned.emit(" ".join(["Some frames are left out:", *left_out]))


def _request(entry: TrayEntry, others: list[TrayEntry]) -> SceneRequest:
    softness_px = 0.0 if entry.suggested is None else entry.suggested.softness_px
    sources = tuple(other.source for other in others)
    return SceneRequest(entry.number, entry.source, sources, entry.recipe(CONCERT.key), softness_px)
