"""Starts the window."""

from __future__ import annotations

import os
import sys
import threading
from functools import partial
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING

from wamplex.app.shared.freeze_gc import frozen_gc
from wamplex.app.startup.single_window import hand_to_running, listen
from wamplex.core.base.malloc import tune_malloc
from wamplex.core.demo import demo_pictures
from wamplex.core.model.settings import load_settings

if TYPE_CHECKING:
    from PySide6.QtWidgets import QApplication

    from wamplex.app.window.main_window import MainWindow
    from wamplex.core.workflow.decoding.decoding_client import DecodingClient
    from wamplex.core.workflow.hand_over import HandOver

NO_DISPLAY = 3
# What the window needs that knows nothing of Qt, by the few that need nearly all of it.
_WITHOUT_QT = (
    "wamplex.core.deliver.deliver",
    "wamplex.core.known_answer.raw_question",
    "wamplex.core.analysis.faces.rotated_faces",
    "wamplex.core.workflow.projects.project",
    "wamplex.core.readings.sampling",
    "wamplex.core.sheet_export.page_writers",
    "wamplex.core.workflow.recipe_transfer.named_recipe",
)


def start_window(paths: list[Path], *, demo: bool, new: bool = False) -> int:
    """Open these files in the window that runs, else in one of their own.

    Parameters
    ----------
    new : open a window of their own in any case

    Returns
    -------
    The exit code of the application.
    """
    if not new and has_display() and hand_to_running([*paths, *(demo_pictures() if demo else [])]):
        return 0
    return _started(paths, demo=demo, hand_over=None, alone=new)


def start_hand_over(hand_over: HandOver) -> int:
    """Open the window on a file that another program waits for.

    Returns
    -------
    0 when it was handed back, 1 when it was declined.
    """
    return _started([hand_over.file], demo=False, hand_over=hand_over, alone=True)


def _started(paths: list[Path], *, demo: bool, hand_over: HandOver | None, alone: bool) -> int:
    if not has_display():
        print(
            "There is no display to open a window on. Without one, use: wamplex enlarge --help",
            file=sys.stderr,
        )
        return NO_DISPLAY
    from wamplex.core.workflow.decoding.decoding_client import decode_in_worker

    with decode_in_worker() as decoder:
        return _run_window(paths, decoder, demo=demo, hand_over=hand_over, alone=alone)


def _run_window(
    paths: list[Path], decoder: DecodingClient, *, demo: bool, hand_over: HandOver | None, alone: bool
) -> int:
    app, window = make_window()

    from wamplex.app.deliver.hand_over_controller import DECLINED
    from wamplex.app.startup.faults import FaultHook
    from wamplex.app.startup.signals import SignalHandler

    FaultHook(window).install()
    window.show()
    threading.Thread(target=decoder.warm_up).start()
    window.delivery.take_up()
    window.project_controller.offer_recovery()
    window.take_in(paths)
    if demo:
        window.open_demo()
    if not alone:
        listen(window, partial(_take_further, window))
    SignalHandler(app, keep=window.project.save_for_recovery, end=partial(_stopped, window))
    if hand_over is None:
        return app.exec()
    handing = window.start_hand_over(hand_over)
    code = app.exec()
    handing.end()
    window.end(asked=True)
    return (0 if handing.handed_back else DECLINED) if code == 0 else code


def make_window() -> tuple[QApplication, MainWindow]:
    """The application and its window, which is not shown yet, as soon as can be."""
    tune_malloc()
    with frozen_gc():
        # Before Qt: PySide looks into the source of each module that is loaded after it.
        for name in _WITHOUT_QT:
            import_module(name)
        from PySide6.QtWidgets import QApplication

        from wamplex.app.shared.theme import apply_theme, deferred_stylesheet
        from wamplex.app.window.main_window import MainWindow

        settings = load_settings()
        if settings.size_percent != 100:
            os.environ.setdefault("QT_SCALE_FACTOR", f"{settings.size_percent / 100:g}")
        app = QApplication(sys.argv[:1])
        app.setApplicationName("Wamplex")
        apply_theme(app, dimmed=settings.dimmed)
        with deferred_stylesheet(app):
            window = MainWindow()
    return app, window


def _take_further(window: MainWindow, paths: list[Path]) -> None:
    """Files came from a program that was started after this one."""
    from PySide6.QtCore import Qt

    window.take_in(paths)
    window.setWindowState(window.windowState() & ~Qt.WindowState.WindowMinimized)
    window.raise_()
    window.activateWindow()


def _stopped(window: MainWindow, code: int) -> None:
    from PySide6.QtWidgets import QApplication

    window.end(asked=False)
    QApplication.exit(code)


def has_display() -> bool:
    """Whether a window can be shown."""
    platform = os.environ.get("QT_QPA_PLATFORM", "")
    return bool(platform or os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))
