"""A line below the steps that asks or tells something without stopping the work."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from wamplex.app.shared.widgets import button, clear, label, restyle


class NoticeBar(QWidget):
    """Hidden until there is something to say."""

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("role", "notice")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground, True)
        self.buttons: list[QPushButton] = []
        self._text = ""
        self._inside = QHBoxLayout(self)
        self._inside.setContentsMargins(14, 5, 14, 5)
        self.hide()

    @property
    def text(self) -> str:
        """The shown text."""
        return self._text

    def warn(self, text: str, *answers: tuple[str, str, Callable[[], object]]) -> None:
        """Say that something went wrong."""
        self._show("warning-line", text, answers)

    def say(self, text: str, *answers: tuple[str, str, Callable[[], object]]) -> None:
        """Show a sentence with answers (text, tooltip, what they do); every answer closes the bar."""
        self._show("notice", text, answers)

    def _show(self, role: str, text: str, answers: tuple[tuple[str, str, Callable[[], object]], ...]) -> None:
        restyle(self, role)
        clear(self._inside)
        self._text = text
        self._inside.addWidget(label(text))
        self._inside.addStretch(1)
        self.buttons = [self._answer(*answer) for answer in (*answers, ("Close", "Close this line", _nothing))]
        for answer_button in self.buttons:
            self._inside.addWidget(answer_button)
        self.show()

    def _answer(self, text: str, tip: str, act: Callable[[], object]) -> QPushButton:
        def chosen() -> None:
            self.hide()
            act()

        return button(text, tip, chosen)


def _nothing() -> None:
    pass
