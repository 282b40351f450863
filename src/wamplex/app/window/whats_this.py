"""What's this: click a widget to see its full tooltip."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QHelpEvent
from PySide6.QtWidgets import QApplication, QWhatsThis, QWidget


class WhatsThis(QObject):
    """Sees all events of the program while the user asks what something is.

    Only then: each of the hundreds of events in a turn of the window would wait for Python.
    """

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        window.installEventFilter(self)

    def begin(self) -> None:
        """The next thing that is pointed at tells what it is."""
        QApplication.instance().installEventFilter(self)  # type: ignore[union-attr]
        QWhatsThis.enterWhatsThisMode()

    def eventFilter(self, watched_object: QObject, event: QEvent) -> bool:
        """Show the explanation of a control instead of using it."""
        if event.type() == QEvent.Type.LeaveWhatsThisMode:
            QApplication.instance().removeEventFilter(self)  # type: ignore[union-attr]
        if event.type() not in (QEvent.Type.QueryWhatsThis, QEvent.Type.WhatsThis):
            return False
        if not isinstance(watched_object, QWidget) or not watched_object.toolTip():
            return False
        event.accept()
        if isinstance(event, QHelpEvent):
            QWhatsThis.showText(event.globalPos(), watched_object.toolTip(), watched_object)
        return True
