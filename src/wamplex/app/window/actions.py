"""Actions of the whole window, by the names that the table of keys and the project's menu use."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QWidget

from wamplex.app.shared.keys import KEYS

Action = Callable[[], object]


def add_keys(window: QWidget, actions: dict[str, Action]) -> None:
    """Bind the actions that have keys, as the table of keys lists them."""
    for bound in KEYS:
        if bound.name not in actions:
            continue  # a key of one step, which that step binds
        action = QAction(window)
        action.setShortcuts([QKeySequence(keys) for keys in bound.keys])
        action.triggered.connect(lambda _checked=False, run=actions[bound.name]: run())
        window.addAction(action)
