"""The bar for a file that another program waits for, and its two buttons."""

from __future__ import annotations

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QWidget

from wamplex.app.shared.widgets import button, label
from wamplex.app.tray.tray import Tray
from wamplex.app.workers.output.hand_back import HandBackThread
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.workflow.hand_over import HandOver
from wamplex.core.workflow.queue.journal import Journal

DECLINED = 1


class HandOverBar(QWidget):
    """Stays until the user has decided."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setProperty("role", "notice")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground, True)
        self.text = label(f"Another program waits for {name}.")
        self.back = button("Hand back", "Replace the file with the enlarged picture, and quit", _nothing, "main")
        self.decline = button("Decline", "Leave the file unchanged, and quit", _nothing)
        inside = QHBoxLayout(self)
        inside.setContentsMargins(14, 5, 14, 5)
        inside.addWidget(self.text)
        inside.addStretch(1)
        inside.addWidget(self.back)
        inside.addWidget(self.decline)


class HandOverController(QObject):
    """Hands back what is stamped, or what is suggested.

    Attributes
    ----------
    handed_back : whether the other program has its result
    """

    ended = Signal()

    def __init__(self, hand_over: HandOver, tray: Tray, store: PictureCache, journal: Journal, parent: QWidget) -> None:
        super().__init__(parent)
        self._hand_over, self._tray, self._store, self._journal = hand_over, tray, store, journal
        self._thread: HandBackThread | None = None
        self.handed_back = False
        self.bar = HandOverBar(hand_over.file.name)
        self.bar.back.clicked.connect(self.hand_back)
        self.bar.decline.clicked.connect(self.ended.emit)

    def hand_back(self) -> None:
        """Write it; the window ends once it is there."""
        entry = next((e for e in self._tray.entries if e.path == self._hand_over.file.absolute()), None)
        if self._thread is not None:
            return
        if entry is None or not entry.usable:
            self.bar.text.setText("The file is still being read, or cannot be read. Nothing was handed back.")
            return
        assert entry.header is not None
        self.bar.back.setEnabled(False)
        self._thread = HandBackThread(
            self._hand_over, entry.header, entry.delivered_recipe(), self._store, self._journal, self
        )
        self._thread.progressed.connect(lambda _fraction, words: self.bar.text.setText(words))
        self._thread.done.connect(self._done)
        self._thread.failed.connect(self._failed)
        self._thread.start()

    def end(self) -> None:
        """Stop; nothing has changed unless it was done."""
        if self._thread is not None:
            self._thread.cancel()
            self._thread.wait()

    def _done(self) -> None:
        self.handed_back = True
        self.ended.emit()

    def _failed(self, sentence: str) -> None:
        if self._thread is not None:
            self._thread.wait()
        self._thread = None
        self.bar.text.setText(sentence)
        self.bar.back.setEnabled(True)


def _nothing() -> None:
    pass
