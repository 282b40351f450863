"""The queue survives crashes, and leaves nothing half-written."""

from __future__ import annotations

import errno
import os
import signal
import sqlite3
import subprocess
import sys
import time
from functools import partial
from pathlib import Path
from types import SimpleNamespace

import numpy as np
import pytest
from PIL import Image

from wamplex.core.base.errors import Cancelled, SourceChangedError
from wamplex.core.base.process_identity import process_identity
from wamplex.core.base.progress import Progress
from wamplex.core.deliver.deliver import deliver
from wamplex.core.deliver.request import naming as naming_module
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.naming import move_into_place
from wamplex.core.finish.strokes import Stroke, encode_points
from wamplex.core.intake.read import read_picture
from wamplex.core.model.assets import Assets, process_assets
from wamplex.core.model.finish_values import Layer, Mask
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.workflow.orders.order import Order
from wamplex.core.workflow.queue import journal as journal_module
from wamplex.core.workflow.queue.job import State
from wamplex.core.workflow.queue.journal import Journal, journal_path
from wamplex.core.workflow.queue.recovery import recover_jobs, unfinished_jobs
from wamplex.core.workflow.queue.run_job import run_job

ENDED_PROCESS = str(2**22 - 7)  # the largest number that Linux gives, nearly


def planned(path: Path, factor: float = 2.0) -> Order:
    recipe = Recipe(base=TrialSpec(upscaler="bicubic"), factor=factor)
    return Order(Source.of(path), recipe, Delivery(format="png"), path.with_name("made.png"), 1000)


@pytest.fixture
def journal(tmp_path: Path) -> Journal:
    return Journal(tmp_path / "jobs.sqlite")


def test_a_job_is_written_down_until_it_has_ended(journal: Journal, photo_file: Path) -> None:
    (job,) = journal.add([planned(photo_file)])
    again = Journal(photo_file.with_name("jobs.sqlite"))
    assert again.jobs() == [(process_identity(), job)]
    done = run_job(journal, job, Progress())
    assert done.path.exists()
    assert again.jobs() == []


def test_failures_and_cancelled_jobs_are_no_longer_kept(journal: Journal, photo_file: Path) -> None:
    one, two = journal.add([planned(photo_file)] * 2)
    progress = Progress()
    progress.cancel()
    with pytest.raises(Cancelled):
        run_job(journal, one, progress)
    os.utime(photo_file, ns=(1, 1))
    with pytest.raises(SourceChangedError, match=r"photo\.png has changed"):
        run_job(journal, two, Progress())
    assert journal.jobs() == []
    assert [p.name for p in photo_file.parent.iterdir() if not p.name.startswith("jobs.sqlite")] == ["photo.png"]


def test_jobs_of_a_program_that_ended_are_taken_up_once(tmp_path: Path, photo_file: Path) -> None:
    ended = Journal(tmp_path / "jobs.sqlite", owner=ENDED_PROCESS)
    one, two = ended.add([planned(photo_file, 2), planned(photo_file, 3)])
    ended.update(one.number, State.RUNNING, "enlarging")
    half = tmp_path / ".made.1234.part"
    ended.note_partial(one.number, half)
    half.write_bytes(b"half")
    others = tmp_path / ".other.1234.part"
    others.write_bytes(b"another program's")
    now = Journal(tmp_path / "jobs.sqlite")
    assert unfinished_jobs(now) == 2
    assert [job.number for job in recover_jobs(now)] == [one.number, two.number]
    assert not half.exists()
    assert others.exists()
    assert recover_jobs(Journal(tmp_path / "jobs.sqlite")) == []  # this program runs


def test_jobs_of_a_program_that_runs_are_left_to_it(tmp_path: Path, photo_file: Path) -> None:
    other = Journal(tmp_path / "jobs.sqlite", owner=process_identity(os.getppid()))
    other.add([planned(photo_file)])
    assert recover_jobs(Journal(tmp_path / "jobs.sqlite")) == []


def test_a_damaged_journal_does_not_stop_the_work(tmp_path: Path, photo_file: Path) -> None:
    path = tmp_path / "jobs.sqlite"
    path.write_bytes(b"nonsense" * 1000)
    journal = Journal(path)
    (job,) = journal.add([planned(photo_file)])
    assert run_job(journal, job, Progress()).check.pixels_equal


@pytest.mark.slow
def test_after_a_kill_the_queue_goes_on_and_nothing_is_left_over(tmp_path: Path) -> None:
    source = tmp_path / "large.png"
    noise = np.random.default_rng(3).integers(0, 255, (400, 500, 3), np.uint8)
    Image.fromarray(noise).save(source)
    command = [sys.executable, "-m", "wamplex", "enlarge", str(source), "--upscaler", "lanczos"]
    process = subprocess.Popen([*command, "--factor", "5"], stdout=subprocess.DEVNULL)
    end = time.monotonic() + 200
    while time.monotonic() < end and not list(tmp_path.glob(".*.part")):
        time.sleep(0.01)
    process.send_signal(signal.SIGKILL)
    process.wait()
    assert len(list(tmp_path.glob(".*.part"))) == 1
    journal = Journal(journal_path())
    assert unfinished_jobs(journal) == 1
    done = subprocess.run([sys.executable, "-m", "wamplex", "resume"], capture_output=True, text=True, check=True)
    assert "large-5x.tif" in done.stdout
    assert sorted(path.name for path in tmp_path.iterdir()) == ["large-5x.tif", "large.png"]
    assert journal.jobs() == []


@pytest.fixture(params=["renameat2", "link", "neither"])
def disk(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    """A disk that renames without replacing, one that only knows hard links, one that knows neither."""
    if request.param != "renameat2":
        monkeypatch.setattr(naming_module.ctypes, "CDLL", lambda *_args, **_options: SimpleNamespace())  # type: ignore[attr-defined]
    if request.param == "neither":
        monkeypatch.setattr(os, "link", refused)


def refused(*_args: object, **_options: object) -> None:
    raise OSError(errno.EPERM, "not here")


@pytest.mark.usefixtures("disk")
def test_files_get_free_names_on_every_disk(tmp_path: Path) -> None:
    (tmp_path / ".a.part").write_bytes(b"whole")
    (tmp_path / "a.png").write_bytes(b"mine")
    assert move_into_place(tmp_path / ".a.part", tmp_path / "a.png").read_bytes() == b"whole"
    assert (tmp_path / "a.png").read_bytes() == b"mine"
    assert sorted(path.name for path in tmp_path.iterdir()) == ["a-2.png", "a.png"]


@pytest.mark.usefixtures("disk")
def test_a_name_taken_in_the_same_moment_is_not_replaced(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    names = iter([tmp_path / "a.png", tmp_path / "b.png"])
    monkeypatch.setattr(naming_module, "free_path", lambda _wanted: next(names))  # as if a.png were free
    (tmp_path / "a.png").write_bytes(b"mine")
    (tmp_path / "part").write_bytes(b"whole")
    assert move_into_place(tmp_path / "part", tmp_path / "a.png") == tmp_path / "b.png"
    assert (tmp_path / "a.png").read_bytes() == b"mine"


def test_a_file_whose_old_name_cannot_be_removed_stays_where_it_was(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "part").write_bytes(b"whole")
    unlink = os.unlink

    def fails_once(path: Path, **_options: object) -> None:
        if Path(path).name == "part":
            refused()
        unlink(path)

    monkeypatch.setattr(os, "unlink", fails_once)
    with pytest.raises(OSError, match="not here"):
        naming_module._rename_by_link(tmp_path / "part", tmp_path / "a.png")
    assert [path.name for path in tmp_path.iterdir()] == ["part"]


def test_masks_go_along_with_the_job_to_the_program_that_takes_it_up(
    tmp_path: Path, photo_file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    mask = Mask(strokes=process_assets().put(encode_points((Stroke(((5.0, 5.0, 1.0),), radius=3),))))
    with_mask = planned(photo_file)._replace(recipe=Recipe(factor=2, layers=(Layer(mask=mask),)))
    Journal(tmp_path / "jobs.sqlite", owner=ENDED_PROCESS).add([with_mask])
    another = Assets()  # a program that never saw the mask
    monkeypatch.setattr(journal_module, "process_assets", lambda: another)
    journal = Journal(tmp_path / "jobs.sqlite")
    (job,) = recover_jobs(journal)
    assert mask.strokes is not None
    assert another.get(mask.strokes) == process_assets().get(mask.strokes)
    run_job(journal, job, Progress())
    assert journal._database.read("SELECT count(*) FROM assets") == [(0,)]


def test_a_file_that_had_its_name_when_the_power_failed_is_not_made_twice(tmp_path: Path, photo_file: Path) -> None:
    """Everything was done but for the last line in the journal."""
    cut_off = Journal(tmp_path / "jobs.sqlite", owner=ENDED_PROCESS)
    (job,) = cut_off.add([planned(photo_file)])
    note, whole = partial(cut_off.note_partial, job.number), partial(cut_off.record_complete, job.number)
    made = deliver(read_picture(photo_file), job.recipe, job.delivery, on_begin=note, on_complete=whole).path
    cut_off.close()
    after = Journal(tmp_path / "jobs.sqlite")
    assert recover_jobs(after) == []
    assert after.jobs() == []
    assert [path.suffix for path in made.parent.iterdir()].count(".part") == 0
    assert made.exists()


def test_a_file_without_its_name_is_made_again(tmp_path: Path, photo_file: Path) -> None:
    cut_off = Journal(tmp_path / "jobs.sqlite", owner=ENDED_PROCESS)
    (job,) = cut_off.add([planned(photo_file)])
    begun = tmp_path / ".wamplex-1.part"
    begun.write_bytes(b"whole")
    cut_off.note_partial(job.number, begun)
    cut_off.record_complete(job.number, [begun])
    after = Journal(tmp_path / "jobs.sqlite")
    assert [found.number for found in recover_jobs(after)] == [job.number]
    assert not begun.exists()


def test_a_kill_while_a_job_is_forgotten_leaves_nothing_to_the_next_of_its_number(
    tmp_path: Path, photo_file: Path
) -> None:
    """Job and notes go in one transaction; killed in it, all are still there."""
    path = tmp_path / "jobs.sqlite"
    cut_off = Journal(path, owner=ENDED_PROCESS)
    (first,) = cut_off.add([planned(photo_file)])
    cut_off.record_complete(first.number, [photo_file])
    statements: list[str] = []
    cut_off._database.trace(statements.append)
    cut_off.update(first.number, State.DONE, "done")
    begun, ended = statements.index("BEGIN IMMEDIATE"), statements.index("COMMIT")
    assert sum(s.startswith("DELETE") for s in statements[begun:ended]) == 4
    assert sum(s.startswith("DELETE") for s in statements) == 4
    (second,) = cut_off.add([planned(photo_file)])
    assert (second.number, cut_off.completed_files(second.number)) == (first.number, [])


def written_journal(path: Path, photo_file: Path, count: int = 40) -> Path:
    """A journal of a program that has ended, in one file."""
    ended = Journal(path, owner=ENDED_PROCESS)
    ended.add([planned(photo_file, 2 + number / 100) for number in range(count)])
    ended.close()
    return path


def test_a_journal_of_nonsense_is_set_aside_and_work_goes_on(tmp_path: Path, photo_file: Path) -> None:
    path = tmp_path / "jobs.sqlite"
    path.write_bytes(b"this is no database" * 300)
    journal = Journal(path)
    (notice,) = journal.take_notices()
    assert "was damaged" in notice
    assert len(list(tmp_path.glob("jobs.sqlite.damaged-*"))) == 1
    assert len(journal.add([planned(photo_file)])) == 1
    assert Journal(path).take_notices() == []


def test_what_can_be_read_of_a_damaged_journal_is_taken_over(tmp_path: Path, photo_file: Path) -> None:
    path = written_journal(tmp_path / "jobs.sqlite", photo_file)
    data = bytearray(path.read_bytes())
    page = int.from_bytes(data[16:18], "big")  # of the file format of SQLite 3, 1.3.2
    middle = len(data) // page // 2 * page
    data[middle : middle + page] = os.urandom(page)
    path.write_bytes(data)
    journal = Journal(path)
    (notice,) = journal.take_notices()
    assert "entries were recovered" in notice
    jobs = recover_jobs(journal)
    assert 10 <= len(jobs) < 40
    assert all(job.source == Source.of(photo_file) for job in jobs)


def test_a_bad_row_is_left_out_and_named(tmp_path: Path, photo_file: Path) -> None:
    path = written_journal(tmp_path / "jobs.sqlite", photo_file, 3)
    with sqlite3.connect(path) as base:
        base.execute("UPDATE jobs SET recipe = '{' WHERE number = 2")
    journal = Journal(path)
    assert [job.number for job in recover_jobs(journal)] == [1, 3]
    assert journal.take_notices() == ["A job for made.png cannot be read and is left out."]
    assert recover_jobs(journal) == []
    assert journal.take_notices() == []


def test_a_journal_of_a_newer_version_is_left_alone(tmp_path: Path, photo_file: Path) -> None:
    path = written_journal(tmp_path / "jobs.sqlite", photo_file, 2)
    with sqlite3.connect(path) as base:
        base.execute("PRAGMA user_version = 99")
    before = path.read_bytes()
    journal = Journal(path)
    assert "newer version" in journal.take_notices()[0]
    assert journal.jobs() == []
    journal.add([planned(photo_file)])
    assert path.read_bytes() == before


def test_a_full_disk_of_the_journal_is_said_once_and_files_are_written(tmp_path: Path, photo_file: Path) -> None:
    journal = Journal(tmp_path / "jobs.sqlite")
    (first,) = journal.add([planned(photo_file)])
    journal._database.read("PRAGMA max_page_count = 1")  # the smallest that SQLite allows is what it has
    more = journal.add([planned(photo_file, 2 + number / 1000) for number in range(500)])
    (notice,) = journal.take_notices()
    assert "would be lost in a crash" in notice
    assert first.number < more[0].number
    for job in (first, *more[:2]):
        assert run_job(journal, job, Progress()).path.exists()
    assert journal.take_notices() == []


def test_a_reused_process_number_hides_no_work(tmp_path: Path, photo_file: Path) -> None:
    number, _, rest = process_identity().partition("-")
    start, _, boot = rest.partition("-")
    ended = Journal(tmp_path / "jobs.sqlite", owner=f"{number}-{int(start) - 1}-{boot}")  # of this number, before
    ended.add([planned(photo_file)])
    assert unfinished_jobs(Journal(tmp_path / "jobs.sqlite")) == 1
