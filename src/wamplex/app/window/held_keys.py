"""What holds wherever the focus is: held keys, the ring around the focus, "What is this?"."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QHelpEvent, QKeyEvent
from PySide6.QtWidgets import QApplication, QLineEdit, QWhatsThis, QWidget

from wamplex.app.finish.finish_step import FinishStep
from wamplex.app.shared.focus_ring import FocusRings
from wamplex.app.shared.keys import is_key
from wamplex.app.trial.trial_step import TrialStep


class HeldKeys(QObject):
    """Sees all events of the program until it is told to stop."""

    def __init__(self, window: QWidget, trial: TrialStep, finish: FinishStep) -> None:
        super().__init__(window)
        self._window, self._trial, self._finish = window, trial, finish
        self._rings = FocusRings()
        QApplication.instance().installEventFilter(self)  # type: ignore[union-attr]

    def stop(self) -> None:
        """See no more."""
        QApplication.instance().removeEventFilter(self)  # type: ignore[union-attr]

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """The source, or the result before Finish, is shown as long as its key is held; not in a field."""
        self._rings.watch(watched, event)
        if event.type() in (QEvent.Type.QueryWhatsThis, QEvent.Type.WhatsThis):
            return _explained(watched, event)
        if not isinstance(event, QKeyEvent) or not self._window.isActiveWindow():
            return False
        if isinstance(QApplication.focusWidget(), QLineEdit):
            return False
        held = event.type() == QEvent.Type.KeyPress
        if event.isAutoRepeat() or event.type() not in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
            return False
        if is_key(event, "source"):
            self._trial.hold_source(held and self._trial.isVisible())
            self._finish.hold("source", held)
        elif is_key(event, "before"):
            self._finish.hold("before", held)
        return False


def _explained(watched: QObject, event: QEvent) -> bool:
    """While the user asks what something is, whatever has a tip can be asked, and tells it in full."""
    if not isinstance(watched, QWidget) or not watched.toolTip():
        return False
    event.accept()
    if isinstance(event, QHelpEvent):
        QWhatsThis.showText(event.globalPos(), watched.toolTip(), watched)
    return True
