"""The watched folder: complete files only, nothing twice, nothing lost."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from wamplex.core.base.errors import (
    Cancelled,
    CannotWorkNowError,
    MissingFileError,
    UnreachableFileError,
    UnreadablePictureError,
    WamplexError,
)
from wamplex.core.base.progress import Progress
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.workflow.folder_watch.arrivals import REST_S, Arrivals
from wamplex.core.workflow.folder_watch.folder_watch import FolderWatch
from wamplex.core.workflow.folder_watch.process_arrival import WatchOptions, enlarge_one
from wamplex.core.workflow.queue.journal import Journal
from wamplex.core.workflow.recipe_transfer.sourced_recipe import SourcedRecipe

RECIPE = Recipe(base=TrialSpec(upscaler="bicubic"), factor=2)


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    made = tmp_path / "in"
    made.mkdir()
    return made


def picture(path: Path, seed: int = 0) -> Path:
    Image.fromarray(np.random.default_rng(seed).integers(0, 256, (20, 30, 3), np.uint8)).save(path)
    return path


def watch_options(folder: Path) -> WatchOptions:
    return WatchOptions(SourcedRecipe(RECIPE), Delivery(folder=folder.parent / "out"))


def journal(folder: Path) -> Journal:
    return Journal(folder.parent / "jobs.sqlite")


class Clock:
    now = 0.0

    def __call__(self) -> float:
        return self.now


def test_a_file_that_grows_is_not_taken(folder: Path) -> None:
    clock = Clock()
    arrivals = Arrivals(folder, clock, lambda: os.stat(folder).st_mtime)  # everything was written just now
    path = folder / "a.png"
    path.write_bytes(b"1")
    assert arrivals.complete() == []
    clock.now = REST_S - 0.1
    path.write_bytes(b"12")
    assert arrivals.complete() == []
    clock.now = 2 * REST_S - 0.2
    assert arrivals.complete() == []  # it has rested since it was seen to have grown, but not long enough
    clock.now = 2 * REST_S
    assert arrivals.complete() == [path]


def test_hidden_files_and_folders_are_passed_over(folder: Path) -> None:
    (folder / ".a.part").write_bytes(b"1")
    (folder / "done").mkdir()
    assert Arrivals(folder, wall=lambda: time.time() + 60).complete() == []


def test_what_was_made_is_put_away(folder: Path) -> None:
    made = enlarge_one(picture(folder / "a.png"), watch_options(folder), journal(folder), Progress()).path
    assert made == folder.parent / "out" / "a-2x.tif"
    assert [path.name for path in (folder / "done").iterdir()] == ["a.png"]
    assert not (folder / "a.png").exists()


def test_what_cannot_be_made_is_put_away_with_a_note(folder: Path) -> None:
    (folder / "a.png").write_bytes(b"no picture")
    with pytest.raises(WamplexError):
        enlarge_one(folder / "a.png", watch_options(folder), journal(folder), Progress())
    assert sorted(path.name for path in (folder / "failed").iterdir()) == ["a.png", "a.png.txt"]
    assert "is not a picture" in (folder / "failed" / "a.png.txt").read_text()


def test_a_picture_that_was_made_but_not_put_away_is_not_made_twice(folder: Path) -> None:
    enlarge_one(picture(folder / "a.png"), watch_options(folder), journal(folder), Progress())
    (folder / "done" / "a.png").rename(folder / "a.png")  # as if the power had failed in between
    enlarge_one(folder / "a.png", watch_options(folder), journal(folder), Progress())
    assert [path.name for path in (folder.parent / "out").iterdir()] == ["a-2x.tif"]


@pytest.mark.parametrize("error", [UnreachableFileError("no permission"), MissingFileError("not found")])
def test_a_result_that_cannot_be_read_now_is_not_made_twice(
    folder: Path, monkeypatch: pytest.MonkeyPatch, error: UnreadablePictureError
) -> None:
    enlarge_one(picture(folder / "a.png"), watch_options(folder), journal(folder), Progress())
    path = (folder / "done" / "a.png").rename(folder / "a.png")

    def fails(_path: Path) -> None:
        raise error

    monkeypatch.setattr("wamplex.core.workflow.folder_watch.process_arrival.read_xmp", fails)
    with pytest.raises(CannotWorkNowError, match=str(error)):
        enlarge_one(path, watch_options(folder), journal(folder), Progress())
    assert len(list((folder.parent / "out").iterdir())) == 1
    assert path.exists()


def test_another_picture_of_the_same_name_is_made_beside_the_first(folder: Path) -> None:
    for seed in (1, 2):
        enlarge_one(picture(folder / "a.png", seed), watch_options(folder), journal(folder), Progress())
    assert sorted(path.name for path in (folder.parent / "out").iterdir()) == ["a-2x-2.tif", "a-2x.tif"]
    assert len(list((folder / "done").iterdir())) == 2


def test_cancelled_it_stays_where_it_is(folder: Path) -> None:
    progress = Progress()
    progress.cancel()
    with pytest.raises(Cancelled):
        enlarge_one(picture(folder / "a.png"), watch_options(folder), journal(folder), progress)
    assert [path.name for path in folder.iterdir()] == ["a.png"]


@pytest.mark.slow
def test_killed_on_the_way_it_goes_on_at_the_next_start(folder: Path, tmp_path: Path) -> None:
    for number in range(6):
        picture(folder / f"{number}.png", number)
    recipe = tmp_path / "recipe.json"
    recipe.write_text(RECIPE.replace(factor=8).model_dump_json())
    words = [sys.executable, "-m", "wamplex", "watch", str(folder), "--recipe", str(recipe)]
    words += ["--out", str(tmp_path / "out"), "--once"]
    for _ in range(2):
        process = subprocess.Popen(words, stdout=subprocess.DEVNULL)
        end = time.monotonic() + 30
        before = len(list((tmp_path / "out").glob("*.tif")))
        while time.monotonic() < end and len(list((tmp_path / "out").glob("*.tif"))) <= before:
            time.sleep(0.01)
        process.send_signal(signal.SIGKILL)
        process.wait()
    assert subprocess.run(words, check=False, timeout=120).returncode == 0
    assert sorted(p.name for p in (tmp_path / "out").iterdir()) == [f"{n}-8x.tif" for n in range(6)]
    assert len(list((folder / "done").iterdir())) == 6


@pytest.fixture
def watch(folder: Path) -> FolderWatch:
    return FolderWatch(folder, watch_options(folder), journal(folder))


def test_a_second_watch_of_a_folder_is_refused(folder: Path, watch: FolderWatch) -> None:
    with pytest.raises(WamplexError, match="watched already"):
        FolderWatch(folder, watch_options(folder), journal(folder))
    script = "import fcntl, os, sys; fcntl.flock(os.open(sys.argv[1], os.O_RDONLY), fcntl.LOCK_EX | fcntl.LOCK_NB)"
    assert subprocess.run([sys.executable, "-c", script, folder], check=False, capture_output=True).returncode == 1


def test_a_missing_folder_is_a_sentence(folder: Path) -> None:
    with pytest.raises(WamplexError, match="cannot be watched"):
        FolderWatch(folder / "none", watch_options(folder), journal(folder))


def test_what_cannot_be_done_now_waits_longer_and_longer(folder: Path) -> None:
    clock = Clock()
    watch = FolderWatch(folder, watch_options(folder), journal(folder), clock)
    path = picture(folder / "a.png")
    os.utime(path, (1, 1))
    clock.now = REST_S
    (folder.parent / "out").write_bytes(b"")  # a file where the folder should be
    pauses = []
    for _ in range(8):
        while path not in watch.due():
            clock.now += 1
        before = clock.now
        with pytest.raises(WamplexError, match="tried again"):
            watch.process(path, Progress())
        assert path.exists()
        while path not in watch.due():
            clock.now += 1
        pauses.append(clock.now - before)
    assert pauses == [5, 10, 20, 40, 80, 160, 300, 300]
    (folder.parent / "out").unlink()
    assert watch.process(path, Progress()).path.exists()
    assert (watch.deferred, watch.due()) == (0, [])


@pytest.mark.parametrize("trouble", ["file", "dangling", "read-only"])
def test_a_picture_that_cannot_be_moved_is_enlarged_once(folder: Path, watch: FolderWatch, trouble: str) -> None:
    path, bad = picture(folder / "a.png"), folder / "bad.png"
    bad.write_bytes(b"no picture")
    for name in ("done", "failed"):
        if trouble == "dangling":
            (folder / name).symlink_to(folder / "nowhere" / "at-all")
        elif trouble == "file":
            (folder / name).write_bytes(b"")
        else:
            (folder / name).mkdir(mode=0o500)
    if trouble == "read-only" and os.access(folder / "done", os.W_OK):
        pytest.skip("root may write everywhere")
    result = watch.process(path, Progress())
    assert "could not be moved to done" in result.notes[-1]
    with pytest.raises(WamplexError, match="could not be moved to failed"):
        watch.process(bad, Progress())
    assert path.exists()
    wait_until_complete(watch, folder)
    assert watch.due() == []
    assert len(list((folder.parent / "out").iterdir())) == 1


def wait_until_complete(watch: FolderWatch, folder: Path) -> None:
    """Let the files rest as long as new files must."""
    end = time.monotonic() + REST_S + 1
    while time.monotonic() < end and not watch.finished:
        watch.due()
        time.sleep(0.05)


@pytest.mark.parametrize("name", ["n" * 251 + ".png", "ä" * 125 + ".png", "-rf .png", "a\nb.png"])
def test_odd_names_go_their_way(folder: Path, watch: FolderWatch, name: str) -> None:
    path = folder / name
    path.write_bytes(b"no picture")
    with pytest.raises(WamplexError, match="not a picture"):
        watch.process(path, Progress())
    assert len(list((folder / "failed").iterdir())) == 2


def test_a_picture_that_vanishes_is_told_and_nothing_else_happens(folder: Path, watch: FolderWatch) -> None:
    with pytest.raises(WamplexError, match="file not found"):
        watch.process(folder / "gone.png", Progress())
    assert list(folder.iterdir()) == []


def test_a_folder_that_is_renamed_away_is_waited_for(folder: Path, watch: FolderWatch) -> None:
    picture(folder / "a.png")
    folder.rename(folder.with_name("away"))
    assert watch.due() == []
    folder.with_name("away").rename(folder)
    wait_until_complete(watch, folder)
    assert watch.process(folder / "a.png", Progress()).path.exists()
