"""What can be done from anywhere in the window, under the names its keys and the project's menu have."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QAction, QKeySequence

from wamplex.app.shared.keys import KEYS
from wamplex.app.window.bare import Bare
from wamplex.app.window.pasted import paste
from wamplex.app.window.step_rail import STEPS

if TYPE_CHECKING:
    from wamplex.app.window.main_window import MainWindow

Act = Callable[[], object]


def acts_of(window: MainWindow) -> dict[str, Act]:
    """Everything, by its name."""
    acts: dict[str, Act] = {
        "add": window.choose_files,
        "paste": partial(paste, window.take_in, window.notices),
        "next": lambda: window.tray.step(1),
        "previous": lambda: window.tray.step(-1),
        "undo": window.undo,
        "redo": window.redo,
        "recipes": window.open_recipes,
        "save": window.project_controller.save,
        "save-elsewhere": window.project_controller.save_elsewhere,
        "open-project": window.project_controller.ask_open,
        "colours": window.colours.open,
        "networks": window.dialogs.networks,
        "bare": Bare(window).turn,
        "tray": window.folding.turn_tray,
        "panel": window.folding.turn_panels,
        "help": window.dialogs.help,
        "what": window.dialogs.what,
        "preferences": window.dialogs.preferences,
        "about": window.dialogs.about,
        "quit": window.close,
    }
    return acts | {f"step-{index + 1}": partial(window.open_step, index) for index in range(len(STEPS))}


def add_keys(window: MainWindow, acts: dict[str, Act]) -> None:
    """Bind those that have keys, as the sheet of keys lists them."""
    for bound in KEYS:
        if bound.name not in acts:
            continue  # a key of one step, which that step binds
        action = QAction(window)
        action.setShortcuts([QKeySequence(keys) for keys in bound.keys])
        action.triggered.connect(lambda _checked=False, act=acts[bound.name]: act())
        window.addAction(action)
