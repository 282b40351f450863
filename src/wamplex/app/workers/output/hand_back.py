"""Hands a file back to the program that waits for it, off the GUI thread."""

from __future__ import annotations

from PySide6.QtCore import QObject, QThread, Signal

from wamplex.core.base.errors import Cancelled, WamplexError, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.intake.probe import Probe
from wamplex.core.model.recipe import Recipe
from wamplex.core.trial.developed_picture import develop_picture
from wamplex.core.workflow.hand_over import HandOver, agreed_delivery, hand_back


class HandBackThread(QThread):
    """One file."""

    progressed = Signal(float, str)
    done = Signal()
    failed = Signal(str)

    def __init__(
        self, hand_over: HandOver, header: Probe, recipe: Recipe, store: PictureCache, parent: QObject
    ) -> None:
        super().__init__(parent)
        self._hand_over, self._header, self._recipe, self._store = hand_over, header, recipe, store
        self._progress = Progress(self.progressed.emit)

    def cancel(self) -> None:
        """Stop."""
        self._progress.cancel()

    def run(self) -> None:
        """The thread's work."""
        try:
            delivery = agreed_delivery(self._hand_over, self._header)
            picture = self._store.get(self._header.source, self._progress)
            picture = develop_picture(picture, self._recipe, self._progress)
            hand_back(picture, self._recipe, self._hand_over, delivery, self._progress)
        except Cancelled:
            return
        except WamplexError as error:
            self.failed.emit(str(error))
        except Exception as error:
            self.failed.emit(user_message(error, "There is not enough memory for this picture."))
        else:
            self.done.emit()
