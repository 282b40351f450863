"""Projects: saved and opened again, safe from a crash, forgiving when pictures were moved."""

from __future__ import annotations

import errno
import json
import math
import shutil
import signal
import subprocess
import sys
import threading
import time
import zipfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS

from wamplex.app.project.project_model import lost_work, recovery_path
from wamplex.app.window.main_window import MainWindow
from wamplex.app.workers.output import autosave as autosave_module
from wamplex.core.analysis.content.spots import Spot
from wamplex.core.base.errors import ProjectError, RecipeError
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.model.assets import Assets
from wamplex.core.model.finish_values import Layer, Mask
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.upscale_values import Values
from wamplex.core.workflow.projects import project as project_module
from wamplex.core.workflow.projects.project import Project, SavedPicture, open_project, save_project

TakeIn = Callable[[list[Path]], None]


def decide(window: MainWindow, qtbot: QtBot) -> None:
    """Make decisions of every kind."""
    entry = window.tray.entries[0]
    qtbot.waitUntil(lambda: bool(entry.spots), timeout=WAIT_MS)
    window.tray.set_size(0, entry.size.with_factor(2.5))
    window.tray.set_trials(0, entry.trials.add("contour").strike("B").stamp("D"))
    window.tray.set_trials(0, entry.trials.set_values("D", Values(self_ensemble=True)))
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
        entry.viewing_distance_mm,
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
    window.tray.set_viewing_distance(0, 900)
    before = state(window)
    window.project_controller.save_to(tmp_path / "foyer")
    assert not window.project.unsaved
    assert not recovery_path().exists()
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
    tray.set_size(0, entry.size.with_factor(3))
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
    window.project_controller.save_to(tmp_path / "foyer.wamplex")
    along = tmp_path / "elsewhere"
    along.mkdir()
    shutil.move(photo_file, along / photo_file.name)
    shutil.move(tmp_path / "foyer.wamplex", along)
    assert open_project(along / "foyer.wamplex")[0].pictures[0].path == along / photo_file.name
    deep = along / "2026" / "may"
    deep.mkdir(parents=True)
    shutil.move(along / photo_file.name, deep)
    other = MainWindow()
    qtbot.addWidget(other)
    other.project_controller.open(along / "foyer.wamplex")
    assert "Not found: photo.png" in other.notices.text
    assert other.project_controller.find_in(along) == 1
    qtbot.waitUntil(lambda: bool(other.tray.usable), timeout=WAIT_MS)
    other.close()


PICTURE: dict[str, object] = {"path": "/a.png"}
SPOT = {"x": 0.5, "y": 0.5, "kind": "own", "name": "Handle"}
NO_SHEET = {"width_mm": 100, "height_mm": 100, "margin_mm": 60}


def project(version: int, pictures: list[dict[str, object]]) -> dict[str, object]:
    return {"format": "wamplex-project", "version": version, "pictures": pictures}


def test_a_picture_at_an_impossible_place_is_missing_and_no_more(window: MainWindow, tmp_path: Path) -> None:
    far = PICTURE | {"path": "/" + "/".join(["d" * 200] * 30) + "/a.png"}
    path = tmp_path / "far.wamplex"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("project.json", json.dumps(project(2, [far])))
    assert window.project_controller.open(path)
    assert "Not found: a.png" in window.notices.text


def test_bad_projects_are_refused_in_words(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "bad.wamplex"
    path.write_bytes(b"PK nothing")
    window.project_controller.open(path)
    assert "damaged" in window.notices.text
    for content, words in (
        ({"format": "wamplex-project", "version": 99}, "newer version"),
        ({"format": "other", "version": 1}, "not a Wamplex project"),
        ({"format": "wamplex-project", "version": 2, "pictures": 1}, "pictures"),
        (
            {"format": "wamplex-project", "version": 2, "pictures": [PICTURE | {"seen_from_mm": 0}]},
            "viewing_distance_mm",
        ),
        (
            {"format": "wamplex-project", "version": 2, "pictures": [PICTURE | {"seen_from_mm": math.nan}]},
            "viewing_distance_mm",
        ),
        (
            {"format": "wamplex-project", "version": 2, "pictures": [PICTURE | {"spots": [SPOT] * 201}]},
            "spots",
        ),
        (project(2, [PICTURE] * 10_001), "10000 pictures"),
        (
            {"format": "wamplex-project", "version": 1, "pictures": [PICTURE | {"sheet": NO_SHEET}]},
            "nothing is left",
        ),
        (project(1, [{"path": 3}]), "pictures.0.path"),
        (project(2, [{"path": 3}]), "pictures.0.path"),
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
from wamplex.app.window.main_window import MainWindow
app = QApplication([])
window = MainWindow()
window.take_in([Path(sys.argv[1])])
while not window.tray.usable:
    app.processEvents()
window.tray.set_trials(0, window.tray.entries[0].trials.strike("C"))
end = time.monotonic() + 300  # ends by itself when the test was stopped
while time.monotonic() < end:
    app.processEvents()
    time.sleep(0.01)
"""


def _has_struck(kept: Path) -> bool:
    pictures = json.loads(zipfile.ZipFile(kept).read("project.json"))["pictures"]
    return any(trial["struck"] for picture in pictures for trial in picture["trials"] or ())


@pytest.mark.slow
def test_a_crash_costs_no_work(window: MainWindow, qtbot: QtBot, photo_file: Path) -> None:
    process = subprocess.Popen([sys.executable, "-c", _CRASHING, str(photo_file)])
    kept = recovery_path(process.pid)
    end = time.monotonic() + 60
    while not (kept.exists() and _has_struck(kept)):
        assert time.monotonic() < end
        time.sleep(0.2)
    process.send_signal(signal.SIGKILL)
    process.wait()
    assert lost_work() == [kept]
    window.project_controller.offer_recovery()
    assert "was not saved" in window.notices.text
    window.notices.buttons[0].click()
    qtbot.waitUntil(lambda: bool(window.tray.usable), timeout=WAIT_MS)
    assert [t.letter for t in window.tray.entries[0].trials.struck] == ["C"]
    assert lost_work() == []


def test_an_opened_project_counts_as_saved_until_something_is_decided(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path, tmp_path: Path
) -> None:
    take_in([photo_file])
    decide(window, qtbot)
    window.project_controller.save_to(tmp_path / "foyer.wamplex")
    other = MainWindow()
    qtbot.addWidget(other)
    other.take_in([tmp_path / "foyer.wamplex"])
    qtbot.waitUntil(lambda: bool(other.tray.usable) and other.tray.entries[0].suggested is not None, timeout=WAIT_MS)
    entry = other.tray.entries[0]
    assert not other.project.look()
    other.tray.set_trials(0, entry.trials.activate("A"))
    assert not other.project.look()
    other.tray.set_trials(0, entry.trials.strike("A"))
    assert other.project.look()
    other.close()
    assert open_project(tmp_path / "foyer.wamplex")[0].pictures[0].trials[0].struck


FIRST_VERSION = Path(__file__).parents[2] / "data" / "project-1.json"  # as the release before wrote it


def test_projects_of_the_first_version_open_with_nothing_lost(
    window: MainWindow, qtbot: QtBot, photo_file: Path
) -> None:
    path = photo_file.with_name("old.wamplex")
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("project.json", FIRST_VERSION.read_text())
    window.take_in([path])
    qtbot.waitUntil(lambda: bool(window.tray.usable), timeout=WAIT_MS)
    (entry,) = window.tray.entries
    assert entry.framing == Framing(turns=1, crop=Crop(x=10, y=20, width=60, height=80))
    assert entry.sheet == Sheet(width_mm=148, height_mm=105, margin_mm=5)
    assert entry.size is not None
    assert (entry.size.factor, entry.size.density_ppi, entry.viewing_distance_mm) == (3.5, 240, 900)
    assert [(t.letter, t.upscaler_key, t.struck) for t in entry.trials.rows] == [
        ("A", "bicubic", True),
        ("B", "mender", False),
        ("C", "vellum", False),
    ]
    assert entry.trials.find("B").values == Values(noise=12, blur=-20)
    assert (entry.trials.active, entry.trials.stamped) == ("B", "B")
    assert [(round(s.x, 6), round(s.y, 6), s.name) for s in entry.spots] == [
        (0.25, 0.5, "Handle"),
        (0.5, 0.5, "Detail"),
    ]
    assert window.deliver_step.panel.delivery.quality == 88
    assert window.project.blind_choices == {"mender": 2}
    window.project_controller.save_to(path)
    assert open_project(path)[0].pictures[0].recipe.base.upscaler == "mender"


def test_unknown_fields_are_passed_over_at_every_depth(tmp_path: Path) -> None:
    project = Project(pictures=(SavedPicture(path=tmp_path / "a.png", spots=()),))
    fields = json.loads(project.model_dump_json())
    for place in (fields, fields["pictures"][0], fields["pictures"][0]["recipe"]["base"]["values"]):
        place["of a later version"] = {"anything": 1}
    with zipfile.ZipFile(tmp_path / "a.wamplex", "w") as archive:
        archive.writestr("project.json", json.dumps(fields))
    assert open_project(tmp_path / "a.wamplex")[0] == project


def test_binary_parts_are_kept_by_their_digest(tmp_path: Path) -> None:
    """Those that a recipe means, and no others."""
    assets = Assets()
    ref, _other = assets.put(b"a mask"), assets.put(b"of another project")
    assert assets.put(b"a mask") == ref
    path = tmp_path / "a.wamplex"
    recipe = Recipe(layers=(Layer(mask=Mask(strokes=ref)),))
    save_project(Project(pictures=(SavedPicture(path=Path("/a.png"), recipe=recipe),)), path, assets)
    assert zipfile.ZipFile(path).namelist() == ["project.json", f"assets/{ref.digest}"]
    assert open_project(path)[1].get(ref) == b"a mask"
    with zipfile.ZipFile(path, "a") as archive:
        archive.writestr(f"assets/{'0' * 64}", b"something else")
    with pytest.raises(ProjectError, match="damaged"):
        open_project(path)
    with pytest.raises(ProjectError, match="missing"):
        Assets().get(ref)


def test_saving_for_recovery_does_not_hold_the_window_up(
    window: MainWindow, take_in: TakeIn, photo_file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    take_in([photo_file])
    begun, go_on = threading.Event(), threading.Event()

    def slow(project: Project, path: Path, assets: Assets, *, durable: bool) -> None:
        begun.set()
        assert go_on.wait(60)
        save_project(project, path, assets, durable=durable)

    monkeypatch.setattr(autosave_module, "save_project", slow)
    window.tray.set_trials(0, window.tray.entries[0].trials.strike("B"))
    window.project.save_for_recovery()
    assert begun.wait(60)  # and yet we are here
    go_on.set()
    window.project.finish()
    assert recovery_path().exists()
    window.project.forget_recovery()
    assert not recovery_path().exists()


def test_work_that_cannot_be_saved_for_recovery_is_told_once(
    window: MainWindow, take_in: TakeIn, photo_file: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    take_in([photo_file])
    sentences: list[str] = []
    autosave = window.findChild(autosave_module.Autosave)
    autosave.failed.connect(sentences.append)

    def full(project: Project, path: Path, assets: Assets, *, durable: bool) -> None:
        raise ProjectError(f"{path.name} cannot be written.") from OSError(errno.ENOSPC, "No space left on device")

    with monkeypatch.context() as disk:
        disk.setattr(autosave_module, "save_project", full)
        for letter in "BC":
            window.tray.set_trials(0, window.tray.entries[0].trials.strike(letter))
            window.project.save_for_recovery()
            window.project.finish()
    qtbot.waitUntil(lambda: bool(sentences))
    assert sentences == ["The work cannot be saved for recovery: no space left on device. Save the project elsewhere."]
    window.tray.set_trials(0, window.tray.entries[0].trials.strike("D"))
    window.project.save_for_recovery()
    window.project.finish()
    assert recovery_path().exists()


def test_no_more_than_the_bound_is_read_whatever_the_archive_says(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "large.wamplex"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("project.json", b" " * 3_000_000)
    monkeypatch.setattr(project_module, "_LARGEST_JSON_BYTES", 2_000_000)
    with pytest.raises(ProjectError, match="too large to be a project"):
        open_project(path)


def test_numbers_that_are_none_are_never_written() -> None:
    with pytest.raises(RecipeError, match="viewing_distance_mm"):
        SavedPicture(path=Path("/a.png")).replace(viewing_distance_mm=math.inf)
