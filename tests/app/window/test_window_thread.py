"""The window's thread only shows: work is watched for on it while every step is driven."""

from __future__ import annotations

import sys
import threading
import weakref
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot
from tests.app.making import measure_anew
from tests.app.watching import WAIT_MS

from wamplex.app.project.project_model import recovery_path
from wamplex.app.startup.faults import FaultHook
from wamplex.app.window.main_window import ASSESS, DELIVER, SIZE, TRIAL, MainWindow
from wamplex.app.workers.files import loader, thumbnails
from wamplex.app.workers.rendering import developing, sheet_previews, tiles
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.render import plan
from wamplex.core.trial import framed_picture
from wamplex.core.upscale.networks import inference
from wamplex.core.workflow.assessment import condition_rows as measuring
from wamplex.core.workflow.queue import run_job as run_module

TakeIn = Callable[[list[Path]], None]
# Where work is done, and what it is called there.
WATCHED: tuple[tuple[Any, str], ...] = (
    (plan.Plan, "render"),
    (inference, "load_session"),
    (developing, "develop_small"),
    (framed_picture, "frame_view"),
    (framed_picture, "frame_part"),
    (measuring, "measure_condition"),
    (loader, "read_small"),
    (run_module, "read_picture"),
    (run_module, "deliver"),
    (tiles, "preview"),
    (tiles, "to_image"),
    (thumbnails, "frame_thumbnail"),
    (sheet_previews, "sheet_preview"),
)


@pytest.fixture
def calls(monkeypatch: pytest.MonkeyPatch) -> list[tuple[str, bool]]:
    """Every call of what is watched: its name, and whether it was on the window's thread."""
    found: list[tuple[str, bool]] = []

    def watched(name: str, real: Callable[..., Any]) -> Callable[..., Any]:
        def call(*args: Any, **named: Any) -> Any:
            found.append((name, threading.current_thread() is threading.main_thread()))
            return real(*args, **named)

        return call

    for owner, name in WATCHED:
        monkeypatch.setattr(owner, name, watched(name, getattr(owner, name)))
    return found


def test_no_work_is_done_on_it_in_any_step(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path, calls: list[tuple[str, bool]]
) -> None:
    measure_anew()
    take_in([photo_file])
    tray, entry = window.tray, window.tray.entries[0]
    window.open_step(ASSESS)
    qtbot.waitUntil(lambda: entry.suggested is not None, timeout=WAIT_MS)
    window.open_step(SIZE)
    framing = Framing(turns=1, straighten_deg=2.0)
    tray.set_framing(0, framing)
    tray.set_sheet(0, Sheet(width_mm=100, height_mm=120, margin_mm=5))
    qtbot.waitUntil(lambda: entry.framed_as == entry.framing, timeout=WAIT_MS)
    tray.undo()
    window.open_step(TRIAL)
    window.trial_step.show_view("sheet")
    tray.set_trials(0, entry.trials.add("contour").stamp("A"))
    qtbot.waitUntil(lambda: not window.workers.renderer.busy, timeout=WAIT_MS)
    test = window.open_test(0)
    test.run_test()
    qtbot.waitUntil(lambda: bool(test.answers), timeout=WAIT_MS)
    qtbot.waitUntil(lambda: not test.looks[0].pixmap().isNull(), timeout=WAIT_MS)
    test.close()
    window.open_step(DELIVER)
    window.deliver_step.deliver_one()
    qtbot.waitUntil(lambda: not window.jobs.open, timeout=WAIT_MS)
    done = {name for name, _ in calls}
    assert done >= {"render", "load_session", "frame_thumbnail", "measure_condition", "deliver", "preview"}
    assert [name for name, on_window in calls if on_window] == []


def test_after_a_fault_in_painting_the_window_goes_on_painting(
    window: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    monkeypatch.setattr(threading, "excepthook", threading.excepthook)
    FaultHook(window).install()
    painters = []

    class Faulty(QWidget):
        def paintEvent(self, _event: QPaintEvent) -> None:
            painter = QPainter(self)
            painters.append(weakref.ref(painter))
            if len(painters) == 1:
                raise ZeroDivisionError("odd")

    faulty = Faulty(window)
    faulty.resize(50, 50)
    faulty.show()
    qtbot.waitUntil(lambda: "ZeroDivisionError: odd" in window.notices.text, timeout=WAIT_MS)
    assert painters[0]() is None
    faulty.update()
    qtbot.waitUntil(lambda: len(painters) > 1, timeout=WAIT_MS)


@pytest.mark.parametrize("elsewhere", [False, True])
def test_a_fault_is_told_in_words_and_the_work_is_kept(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path, elsewhere: bool,
    monkeypatch: pytest.MonkeyPatch,
) -> None:  # fmt: skip
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    monkeypatch.setattr(threading, "excepthook", threading.excepthook)
    FaultHook(window).install()
    take_in([photo_file])
    window.tray.set_trials(0, window.tray.entries[0].trials.strike("B"))

    def fault() -> None:
        raise ZeroDivisionError("odd")

    if elsewhere:
        thread = threading.Thread(target=fault)
        thread.start()
        thread.join()
    else:
        try:
            fault()
        except ZeroDivisionError:
            sys.excepthook(*sys.exc_info())
    qtbot.waitUntil(lambda: "ZeroDivisionError: odd" in window.notices.text, timeout=WAIT_MS)
    window.project.finish()
    assert recovery_path().exists()
