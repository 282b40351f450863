"""Hands a file back to the program that waits for it, off the GUI thread."""

from __future__ import annotations

from PySide6.QtCore import QObject, QThread, Signal

from wamplex.core.base.errors import Cancelled, WamplexError, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.intake.probe import Probe
from wamplex.core.model.recipe import Recipe
from wamplex.core.workflow.hand_over import HandOver, hand_back
from wamplex.core.workflow.queue.journal import Journal


class HandBackThread(QThread):
    """One file."""

    progressed = Signal(float, str)
    done = Signal()
    failed = Signal(str)

    def __init__(
        self,
        hand_over: HandOver,
        header: Probe,
        recipe: Recipe,
        store: PictureCache,
        journal: Journal,
        parent: QObject,
    ) -> None:
        super().__init__(parent)
        self._hand_over, self._header, self._recipe = hand_over, header, recipe
        self._store, self._journal = store, journal
        self._progress = Progress(self.progressed.emit)

    def cancel(self) -> None:
        """Stop."""
        self._progress.cancel()

    def run(self) -> None:
        """The thread's work."""
        try:
            picture = self._store.get(self._header.source, self._progress)
            hand_back(self._header, picture, self._recipe, self._hand_over, self._journal, self._progress)
        except Cancelled:
            return
        except WamplexError as error:
            self.failed.emit(str(error))
        except Exception as error:
            self.failed.emit(user_message(error, "There is not enough memory for this picture."))
        else:
            self.done.emit()
