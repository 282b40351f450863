"""Unsaved work of programs that were cut off: taken up one by one, and never lost."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

import pytest
from platformdirs import user_state_path
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS

from wamplex.app.project import project_model
from wamplex.app.project.project_model import lost_work, recovery_path
from wamplex.app.window.main_window import MainWindow
from wamplex.core.base.process_identity import process_identity
from wamplex.core.workflow.projects.project import Project, SavedPicture, open_project, save_project

TakeIn = Callable[[list[Path]], None]
ENDED = 2**22 - 7  # numbers that no process has


def work_of(process: int, picture: Path, age_s: float) -> Path:
    path = recovery_path(process)
    path.parent.mkdir(parents=True, exist_ok=True)
    save_project(Project(pictures=(SavedPicture(path=picture),)), path)
    os.utime(path, (1e9 - age_s, 1e9 - age_s))
    return path


def choose(window: MainWindow, words: str) -> None:
    next(b for b in window.notices.buttons if b.text() == words).click()


def test_the_work_of_several_programs_is_offered_one_after_the_other(
    window: MainWindow, qtbot: QtBot, photo_file: Path, tmp_path: Path
) -> None:
    other = photo_file.with_name("other.png")
    other.write_bytes(photo_file.read_bytes())
    newest, older = work_of(ENDED, photo_file, 0), work_of(ENDED - 1, other, 100)
    window.project_controller.offer_recovery()
    assert "1 more can be recovered" in window.notices.text
    choose(window, "Recover the work")
    assert not newest.exists()
    assert recovery_path().exists()  # it is safe before its own file goes
    assert older.exists()
    assert "was not saved" in window.notices.text
    choose(window, "Discard")
    assert not older.exists()
    assert [entry.path for entry in window.tray.entries] == [photo_file]


def test_damaged_work_is_kept_aside_and_the_rest_is_offered(window: MainWindow, photo_file: Path) -> None:
    newest, older = work_of(ENDED, photo_file, 0), work_of(ENDED - 1, photo_file, 100)
    newest.write_bytes(newest.read_bytes()[:40])
    os.utime(newest, (2e9, 2e9))
    window.project_controller.offer_recovery()
    choose(window, "Recover the work")
    assert "is damaged" in window.notices.text
    assert newest.with_name(f"{newest.name}.damaged-1").exists()
    assert lost_work() == [older]


@pytest.mark.parametrize("name", ["99999999999999999999999", "²³", "-1", "", "12345678901"])
def test_names_of_other_making_are_passed_over(name: str) -> None:
    folder = user_state_path("wamplex")
    folder.mkdir(parents=True, exist_ok=True)
    (folder / f"recovery-{name}.wamplex").write_bytes(b"PK")
    (folder / "recovery-123.wamplex").symlink_to(folder / "nowhere")
    assert lost_work() == []


def test_work_is_offered_when_another_process_has_the_number_now(window: MainWindow, photo_file: Path) -> None:
    path = work_of(os.getpid(), photo_file, 0)
    assert lost_work() == []
    number, start, boot = process_identity().split("-", 2)
    earlier = path.rename(path.with_name(f"recovery-{number}-{int(start) - 1}-{boot}.wamplex"))
    assert lost_work() == [earlier]


def test_new_pictures_are_saved_before_anything_is_decided(
    window: MainWindow, qtbot: QtBot, photo_file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(project_model, "_AUTOSAVE_MS", 3_600_000)  # what is decided later waits for this
    window.take_in([photo_file])

    def is_saved() -> bool:  # an earlier test's window may have left work of its own there
        path = recovery_path()
        return path.exists() and [picture.path for picture in open_project(path)[0].pictures] == [photo_file]

    qtbot.waitUntil(is_saved, timeout=WAIT_MS)
