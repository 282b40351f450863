"""Projects: saved and opened again, safe from a crash, forgiving when pictures were moved."""

from __future__ import annotations

import json
import os
import shutil
import signal
import subprocess
import sys
import time
import zipfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot
from watching import WAIT_MS

from wamplex.app.models.project import lost_work, recovery_path
from wamplex.app.views.main_window import MainWindow
from wamplex.core.errors import ProjectError
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.measure.spots import Spot
from wamplex.core.project import Project, open_project, save_project
from wamplex.core.upscale.values import Values

TakeIn = Callable[[list[Path]], None]


def decide(window: MainWindow, qtbot: QtBot) -> None:
    """Make decisions of every kind."""
    entry = window.tray.entries[0]
    qtbot.waitUntil(lambda: bool(entry.spots), timeout=WAIT_MS)
    window.tray.set_size(0, entry.size.with_factor(2.5))  # type: ignore[union-attr]
    window.tray.set_trials(0, entry.trials.add("contour").strike("B").stamp("D"))
    window.tray.set_trials(0, entry.trials.set_values("D", Values(careful=True)))
    window.tray.set_spots(0, entry.spots[1:])
    window.deliver_step.panel.formats.button_for("jpeg").click()


def rounded(spots: tuple[Spot, ...]) -> list[Spot]:
    return [replace(spot, x=round(spot.x, 9), y=round(spot.y, 9)) for spot in spots]


def state(window: MainWindow) -> tuple[object, ...]:
    entry = window.tray.entries[0]
    return (
        entry.size,
        entry.framing,
        entry.sheet,
        entry.seen_from_mm,
        rounded(entry.spots),
        entry.trials,
        window.deliver_step.panel.delivery,
    )


def test_a_project_comes_back_as_it_was(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path, tmp_path: Path
) -> None:
    take_in([photo_file])
    decide(window, qtbot)
    window.tray.set_framing(0, Framing(turns=1, straighten_deg=1.5))
    window.tray.set_sheet(0, Sheet(width_mm=148, height_mm=105, place="fill", wrap_mm=4))
    window.tray.set_seen_from(0, 900)
    before = state(window)
    window.desk.save_to(tmp_path / "foyer")
    assert not window.project.unsaved
    assert not recovery_path(os.getpid()).exists()
    other = MainWindow()
    qtbot.addWidget(other)
    other.take_in([tmp_path / "foyer.wamplex"])
    qtbot.waitUntil(lambda: bool(other.tray.usable), timeout=WAIT_MS)
    qtbot.waitUntil(lambda: other.tray.entries[0].suggested is not None, timeout=WAIT_MS)
    assert state(other) == before
    assert other.project.name == "foyer"
    other.close()


def test_undo_and_redo(window: MainWindow, take_in: TakeIn, photo_file: Path) -> None:
    take_in([photo_file])
    tray, entry = window.tray, window.tray.entries[0]
    first = entry.trials.activate("A")
    tray.set_trials(0, entry.trials.strike("B"))
    tray.set_trials(0, entry.trials.activate("A"))
    tray.set_size(0, entry.size.with_factor(3))  # type: ignore[union-attr]
    assert tray.undo() == "size"
    assert entry.size is not None
    assert entry.size.factor == 4
    assert tray.undo() == "trial B struck"
    assert entry.trials == first
    assert tray.undo() is None
    assert tray.redo() == "trial B struck"
    assert [t.letter for t in entry.trials.struck] == ["B"]


def test_moved_pictures_are_found_again(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path, tmp_path: Path
) -> None:
    take_in([photo_file])
    window.desk.save_to(tmp_path / "foyer.wamplex")
    along = tmp_path / "elsewhere"
    along.mkdir()
    shutil.move(photo_file, along / photo_file.name)
    shutil.move(tmp_path / "foyer.wamplex", along)
    assert open_project(along / "foyer.wamplex").pictures[0].path == along / photo_file.name
    deep = along / "2026" / "may"
    deep.mkdir(parents=True)
    shutil.move(along / photo_file.name, deep)
    other = MainWindow()
    qtbot.addWidget(other)
    other.desk.open(along / "foyer.wamplex")
    assert "Not found: photo.png" in other.notices.words
    assert other.desk.find_in(along) == 1
    qtbot.waitUntil(lambda: bool(other.tray.usable), timeout=WAIT_MS)
    other.close()


def test_bad_projects_are_refused_in_words(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "bad.wamplex"
    path.write_bytes(b"PK nothing")
    window.desk.open(path)
    assert "damaged" in window.notices.words
    for content, words in (
        ({"format": "wamplex-project", "version": 99}, "newer version"),
        ({"format": "other", "version": 1}, "not a Wamplex project"),
        ({"format": "wamplex-project", "version": 1, "pictures": [{"path": 3}]}, "pictures.0.path"),
    ):
        with zipfile.ZipFile(path, "w") as archive:
            archive.writestr("project.json", json.dumps(content))
        with pytest.raises(ProjectError, match=words):
            open_project(path)
    with pytest.raises(ProjectError, match="cannot be written"):
        save_project(Project(), tmp_path / "no folder" / "a.wamplex")


_CRASHING = """
import sys, time
from pathlib import Path
from PySide6.QtWidgets import QApplication
from wamplex.app.views.main_window import MainWindow
app = QApplication([])
window = MainWindow()
window.take_in([Path(sys.argv[1])])
while not window.tray.usable:
    app.processEvents()
window.tray.set_trials(0, window.tray.entries[0].trials.strike("C"))
while True:
    app.processEvents()
    time.sleep(0.01)
"""


@pytest.mark.slow
def test_a_crash_costs_no_work(window: MainWindow, qtbot: QtBot, photo_file: Path) -> None:
    process = subprocess.Popen([sys.executable, "-c", _CRASHING, str(photo_file)])
    kept = recovery_path(process.pid)
    end = time.monotonic() + 200
    while time.monotonic() < end:
        time.sleep(0.2)
        if kept.exists() and '"struck": true' in zipfile.ZipFile(kept).read("project.json").decode():
            break
    process.send_signal(signal.SIGKILL)
    process.wait()
    assert lost_work() == [kept]
    window.desk.offer_recovery()
    assert "was not saved" in window.notices.words
    window.notices.buttons[0].click()
    qtbot.waitUntil(lambda: bool(window.tray.usable), timeout=WAIT_MS)
    assert [t.letter for t in window.tray.entries[0].trials.struck] == ["C"]
    assert lost_work() == []


def test_an_opened_project_counts_as_saved_until_something_is_decided(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path, tmp_path: Path
) -> None:
    take_in([photo_file])
    decide(window, qtbot)
    window.desk.save_to(tmp_path / "foyer.wamplex")
    other = MainWindow()
    qtbot.addWidget(other)
    other.take_in([tmp_path / "foyer.wamplex"])
    qtbot.waitUntil(
        lambda: bool(other.tray.usable) and other.tray.entries[0].suggested is not None, timeout=WAIT_MS
    )
    entry = other.tray.entries[0]
    assert not other.project.look()
    other.tray.set_trials(0, entry.trials.activate("A"))
    assert not other.project.look()
    other.tray.set_trials(0, entry.trials.strike("A"))
    assert other.project.look()
    other.close()
    assert open_project(tmp_path / "foyer.wamplex").pictures[0].trials[0].struck
