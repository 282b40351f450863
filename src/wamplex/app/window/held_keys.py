"""Keys that work wherever the focus is, and the focus ring."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QApplication, QLineEdit, QWidget
from shiboken6 import isValid

from wamplex.app.finish.finish_step import FinishStep
from wamplex.app.shared.focus_ring import FocusRings
from wamplex.app.shared.keys import is_key
from wamplex.app.trial.trial_step import TrialStep


class HeldKeys(QObject):
    """Filters the events of the window and of the focused widget until `stop`.

    Not those of the whole program: each of the hundreds in a turn of the window would wait for Python.
    """

    def __init__(self, window: QWidget, trial: TrialStep, finish: FinishStep) -> None:
        super().__init__(window)
        self._window, self._trial, self._finish = window, trial, finish
        self._rings = FocusRings()
        window.installEventFilter(self)
        _app().focusChanged.connect(self._focus_changed)

    def stop(self) -> None:
        """See no more."""
        _app().focusChanged.disconnect(self._focus_changed)
        self._window.removeEventFilter(self)
        self._focus_changed(QApplication.focusWidget(), None)

    def eventFilter(self, watched_object: QObject, event: QEvent) -> bool:
        """The source, or the result before Finish, is shown as long as its key is held; not in a field."""
        if isinstance(event, QFocusEvent) and event.type() == QEvent.Type.FocusOut:
            self._rings.leave_by(event.reason())
        if not isinstance(event, QKeyEvent) or not self._window.isActiveWindow():
            return False
        focused = QApplication.focusWidget()
        if focused is None and event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
            self._rings.leave_by(Qt.FocusReason.TabFocusReason)  # nothing is left that could tell
        if isinstance(focused, QLineEdit):
            return False
        pressed = event.type() == QEvent.Type.KeyPress
        if event.isAutoRepeat() or event.type() not in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
            return False
        if is_key(event, "source"):
            self._trial.hold_source(pressed and self._trial.isVisible())
            self._finish.show_while_pressed("source", pressed)
        elif is_key(event, "before"):
            self._finish.show_while_pressed("before", pressed)
        return False

    def _focus_changed(self, left: QWidget | None, entered: QWidget | None) -> None:
        if left is not None and left is not self._window and isValid(left):
            left.removeEventFilter(self)
        if entered is not None and entered is not self._window:
            entered.installEventFilter(self)
        self._rings.move_to(entered)


def _app() -> QApplication:
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    return app
