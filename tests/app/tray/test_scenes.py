"""Frames of one scene are chosen in the tray and joined under one of them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtGui import QAction
from pytestqt.qtbot import QtBot
from tests.core.frames.bursts import Move, frame, hand_held, photograph, written

from wamplex.app.window.main_window import MainWindow

TakeIn = Callable[[list[Path]], None]
WAIT_MS = 60_000


@pytest.fixture
def burst(tmp_path: Path) -> list[Path]:
    """Three frames of one scene, and another picture."""
    scene = photograph("coffee", 200)
    return written([frame(scene, there) for there in hand_held(3)] + [frame(photograph("cat", 200), Move())], tmp_path)


@pytest.fixture
def scene(window: MainWindow, take_in: TakeIn, burst: list[Path]) -> MainWindow:
    take_in(burst)
    return window


def action(window: MainWindow, row: int, text: str) -> QAction | None:
    shown = window.tray_view.list
    place: QPoint = shown.visualRect(shown.model().index(row, 0)).center()
    menu = shown.menu_at(place)
    return next((a for a in menu.actions() if a.text().startswith(text)), None)


def joined(window: MainWindow, qtbot: QtBot, rows: int) -> None:
    window.tray_view.list.selectAll()
    join = action(window, 0, f"Join {rows} frames of one scene")
    assert join is not None
    join.trigger()
    qtbot.waitUntil(lambda: window.tray.entries[0].decisions.frames is not None, timeout=WAIT_MS)


def test_joining_gives_the_reference_a_trial_and_says_what_is_left_out(scene: MainWindow, qtbot: QtBot) -> None:
    joined(scene, qtbot, 4)
    entry = scene.tray.entries[0]
    assert entry.decisions.frames is not None
    assert [ref.file for ref in entry.decisions.frames.frames] == ["frame-1.png", "frame-2.png"]
    concert = entry.trials.find(entry.trials.active)
    assert concert.upscaler_key == "concert"
    assert entry.trial_recipe(concert).frames == entry.decisions.frames
    assert "frame-3.png shows another scene" in scene.notices.text


def test_the_known_answer_test_leaves_joined_frames_out(scene: MainWindow, qtbot: QtBot) -> None:
    joined(scene, qtbot, 4)
    entry = scene.tray.entries[0]
    test = scene.open_test(entry.number)
    test.run_test()
    qtbot.waitUntil(lambda: test.table.rowCount() > 0, timeout=WAIT_MS)
    assert f"Left out: {entry.trials.active}." in test.text.text()
    test.close()


def test_joining_can_be_undone_redone_and_let_go(scene: MainWindow, qtbot: QtBot) -> None:
    before = scene.tray.entries[0].trials
    joined(scene, qtbot, 4)
    after = scene.tray.entries[0].decisions
    scene.undo()
    assert scene.tray.entries[0].decisions.frames is None
    assert [t.upscaler_key for t in scene.tray.entries[0].trials.rows] == [t.upscaler_key for t in before.rows]
    scene.redo()
    assert scene.tray.entries[0].decisions == after
    let_go = action(scene, 0, "Separate its frames")
    assert let_go is not None
    let_go.trigger()
    assert scene.tray.entries[0].decisions.frames is None
    assert "concert" not in [t.upscaler_key for t in scene.tray.entries[0].trials.rows]


def test_a_project_remembers_the_frames(scene: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    joined(scene, qtbot, 4)
    path = tmp_path / "scene.wamplex"
    frames = scene.tray.entries[0].decisions.frames
    scene.project.save(path)
    scene.tray.remove([entry.number for entry in scene.tray.entries])
    scene.project_controller.open(path)
    qtbot.waitUntil(lambda: bool(scene.tray.entries) and scene.tray.entries[0].usable, timeout=WAIT_MS)
    entry = scene.tray.entries[0]
    assert entry.decisions.frames == frames
    assert "concert" in [t.upscaler_key for t in entry.trials.rows]


def test_pictures_that_do_not_belong_together_are_not_joined(scene: MainWindow, qtbot: QtBot) -> None:
    scene.tray.choose([scene.tray.entries[0].number, scene.tray.entries[3].number])
    with qtbot.waitSignal(scene.scenes.warned, timeout=WAIT_MS) as warned:
        scene.scenes.join(scene.tray.entries[0].number)
    assert warned.args == ["No frame can be joined. frame-3.png shows another scene."]
    scene.tray.choose([scene.tray.entries[0].number])
    with qtbot.waitSignal(scene.scenes.warned) as warned:
        scene.scenes.join(scene.tray.entries[0].number)
    assert warned.args is not None
    assert "Choose two or more frames" in warned.args[0]
