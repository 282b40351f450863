"""Comparing, choosing and delivering in the real window; what is seen is what is written."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QApplication, QMessageBox
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS, grabbed

from wamplex.app.bench.pane import Pane
from wamplex.app.window.main_window import DELIVER, TRIAL, MainWindow
from wamplex.core.workflow.queue.job import State

TakeIn = Callable[[list[Path]], None]


def wait_for_tiles(window: MainWindow, qtbot: QtBot) -> None:
    step = window.trial_step

    def all_made() -> bool:
        keys = [key for pane in step.panes.values() for _, key in pane.needed_tiles()]
        return bool(keys) and all(step.cache.get(key) is not None for key in keys)

    qtbot.waitUntil(all_made, timeout=WAIT_MS)


def expected_part(pane: Pane, whole: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The pane's pixels inside the result, and those of the file at the same place."""
    seen, shown = pane.visible(), grabbed(pane)
    left, top = round(seen.x()), round(seen.y())
    x0, y0 = max(left, 0), max(top, 0)
    x1, y1 = min(left + shown.shape[1], whole.shape[1]), min(top + shown.shape[0], whole.shape[0])
    return shown[y0 - top : y1 - top, x0 - left : x1 - left], whole[y0:y1, x0:x1]


def test_the_whole_choice(window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path) -> None:
    """Compare four, strike two, stamp one, deliver it, and find on screen the pixels of the file."""
    take_in([photo_file])
    window.open_step(TRIAL)
    wait_for_tiles(window, qtbot)
    step = window.trial_step
    for letter in ("B", "C"):
        step.heads[letter].strike_asked.emit()
    assert list(step.panes) == ["A", "D"]
    step.panel.stamp.click()
    assert window.tray.entries[0].trials.stamped == "D"
    wait_for_tiles(window, qtbot)
    window.open_step(DELIVER)
    deliver = window.deliver_step
    deliver.panel.formats.button_for("png").click()
    deliver.panel.depths.button_for(8).click()
    deliver.all_button.click()
    qtbot.waitUntil(lambda: not window.jobs.open, timeout=WAIT_MS)
    job = window.jobs.rows[0]
    assert job.state is State.DONE
    assert "read back: 600 × 480 px, 8 bit, 300 ppi" in deliver.rows[0].text
    assert job.result is not None
    with Image.open(job.result) as image:
        whole = np.asarray(image)
    window.open_step(TRIAL)
    wait_for_tiles(window, qtbot)
    shown, in_file = expected_part(step.panes["D"], whole)
    assert shown.size > 100_000
    difference = np.abs(shown.astype(int) - in_file)
    assert difference.max() <= 1
    assert (difference == 0).mean() > 0.999


def test_panes_move_and_zoom_together(window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path) -> None:
    take_in([photo_file])
    window.open_step(TRIAL)
    panes = list(window.trial_step.panes.values())
    before = panes[0].visible()
    qtbot.mousePress(panes[1], Qt.MouseButton.LeftButton, pos=QPoint(100, 100))
    qtbot.mouseMove(panes[1], QPoint(60, 130))
    qtbot.mouseRelease(panes[1], Qt.MouseButton.LeftButton, pos=QPoint(60, 130))
    moved = panes[0].visible()
    assert (moved.x() - before.x(), moved.y() - before.y()) == (40, -30)
    assert all(p.visible() == moved for p in panes)
    at = QPointF(panes[2].rect().center())
    none = Qt.KeyboardModifier.NoModifier
    wheel = QWheelEvent(
        at, panes[2].mapToGlobal(at), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton, none,
        Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(panes[2], wheel)
    assert [p.scale for p in panes] == [1.5] * 4
    assert panes[0].visible().center().x() == pytest.approx(moved.center().x(), abs=1)
    window.trial_step.viewport.set_zoom(100)
    assert panes[0].scale == 8
    window.trial_step.viewport.set_zoom(0.01)
    assert panes[0].scale == 0.25


def test_holding_q_shows_the_source(window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path) -> None:
    take_in([photo_file])
    window.open_step(TRIAL)
    wait_for_tiles(window, qtbot)
    window.trial_step.setFocus()
    qtbot.waitUntil(window.isActiveWindow, timeout=WAIT_MS)
    qtbot.keyPress(window, Qt.Key.Key_Q)
    wait_for_tiles(window, qtbot)
    with Image.open(photo_file) as image:
        source = np.asarray(image.resize((600, 480), Image.Resampling.NEAREST))
    for pane in window.trial_step.panes.values():
        shown, expected = expected_part(pane, source)
        assert np.array_equal(shown, expected)
    qtbot.keyRelease(window, Qt.Key.Key_Q)
    wait_for_tiles(window, qtbot)
    shown, expected = expected_part(window.trial_step.panes["A"], source)
    assert not np.array_equal(shown, expected)


def test_struck_trials_can_be_put_back_and_the_last_one_stays(
    window: MainWindow, take_in: TakeIn, photo_file: Path
) -> None:
    take_in([photo_file])
    window.open_step(TRIAL)
    step = window.trial_step
    for letter in ("A", "B", "C", "D"):
        if letter in step.heads:
            step.panel.strike_asked.emit(letter)
    assert list(step.panes) == ["D"]
    assert not step.panel.strike.isEnabled()
    step.panel.put_back_asked.emit("B")
    assert list(step.panes) == ["B", "D"]


def test_only_what_is_seen_is_rendered(window: MainWindow, take_in: TakeIn, qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "large.png"
    Image.effect_noise((900, 600), 60).convert("RGB").save(path)
    take_in([path])
    window.open_step(TRIAL)
    wait_for_tiles(window, qtbot)
    for pane in window.trial_step.panes.values():
        assert len(list(pane.needed_tiles())) <= 6  # of the 40 tiles of a 3600 x 2400 result


def test_cancelled_jobs_leave_no_file(window: MainWindow, take_in: TakeIn, qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "large.png"
    Image.effect_noise((1400, 1000), 60).convert("RGB").save(path)
    take_in([path])
    window.open_step(DELIVER)
    window.deliver_step.all_button.click()
    qtbot.waitUntil(lambda: window.jobs.rows[0].state is State.RUNNING, timeout=WAIT_MS)
    window.deliver_step.cancel_button.click()
    qtbot.waitUntil(lambda: not window.jobs.open, timeout=WAIT_MS)
    assert window.jobs.rows[0].state is State.CANCELLED
    assert [p.name for p in tmp_path.iterdir()] == ["large.png"]


def test_closing_while_files_are_written_asks_first(
    window: MainWindow, take_in: TakeIn, monkeypatch: pytest.MonkeyPatch, photo_file: Path
) -> None:
    take_in([photo_file])
    window.deliver_step.pause_asked.emit(True)
    window.deliver_step.deliver_all()
    asked: list[str] = []

    def refuse(_parent: object, _title: str, words: str) -> QMessageBox.StandardButton:
        asked.append(words)
        return QMessageBox.StandardButton.No

    monkeypatch.setattr(QMessageBox, "question", refuse)
    assert not window.close()
    assert asked[0].startswith("1 file is not finished yet")
    assert window.isVisible()


def test_one_failure_does_not_stop_the_others(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path, tmp_path: Path
) -> None:
    gone = tmp_path / "gone.png"
    Image.open(photo_file).save(gone)
    take_in([gone, photo_file])
    gone.unlink()
    window.open_step(DELIVER)
    window.deliver_step.all_button.click()
    qtbot.waitUntil(lambda: not window.jobs.open, timeout=WAIT_MS)
    assert [j.state for j in window.jobs.rows] == [State.FAILED, State.DONE]
    assert "gone.png: file not found" in window.deliver_step.rows[0].text


def test_choices_can_be_used_for_all(window: MainWindow, take_in: TakeIn, photo_file: Path, tmp_path: Path) -> None:
    other = tmp_path / "other.jpg"
    Image.open(photo_file).resize((90, 80)).save(other)
    take_in([photo_file, other])
    current = window.tray.entries[0]
    assert current.size is not None
    window.tray.set_size(0, current.size.with_factor(2.5).with_density(180))
    window.tray.set_trials(0, current.trials.stamp("A"))
    window.deliver_step.panel.use_for_all_asked.emit()
    second = window.tray.entries[1]
    assert second.size is not None
    assert (second.size.width_px, second.size.density_ppi) == (225, 180)
    assert second.delivered_upscaler == "bicubic"
