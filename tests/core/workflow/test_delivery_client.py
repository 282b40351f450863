"""Files of jobs made in a process of their own: what becomes of them whatever happens to it."""

from __future__ import annotations

import os
import signal
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import psutil
import pytest
from PIL import Image

from wamplex.core.base.errors import Cancelled, DeliveryError
from wamplex.core.base.progress import Progress
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.workflow.orders.order import Order
from wamplex.core.workflow.queue.delivery_client import DeliveryClient
from wamplex.core.workflow.queue.job import Job
from wamplex.core.workflow.queue.journal import Journal
from wamplex.core.workflow.queue.run_job import run_job
from wamplex.core.workflow.subprocess import worker_client as helper_module

BICUBIC, VELLUM = Recipe(base=TrialSpec(upscaler="bicubic"), factor=2.0), Recipe()


@pytest.fixture
def journal(tmp_path: Path) -> Journal:
    return Journal(tmp_path / "jobs.sqlite")


@pytest.fixture
def apart(journal: Journal) -> Iterator[DeliveryClient]:
    made = DeliveryClient(journal)
    yield made
    made.close()
    assert not children()


@pytest.fixture
def large_file(tmp_path: Path) -> Path:
    """Some seconds of work."""
    path = tmp_path / "large.png"
    Image.fromarray(np.zeros((600, 600, 3), np.uint8)).save(path)
    return path


def children() -> list[psutil.Process]:
    return [p for p in psutil.Process().children() if "wamplex.core.workflow.queue.delivery_worker" in p.cmdline()]


def ordered(journal: Journal, path: Path, recipe: Recipe, name: str = "made.png") -> Job:
    planned = Order(Source.of(path), recipe, Delivery(format="png"), path.with_name(name), 1000)
    return journal.add([planned])[0]


def left(folder: Path) -> list[str]:
    return sorted(p.name for p in folder.iterdir() if not p.name.startswith("jobs.sqlite"))


def once_under_way(act: Callable[[Progress], object]) -> Progress:
    """Does this when a file's rows are being made."""

    def listen(fraction: float, _words: str) -> None:
        if fraction > 0 and not done:
            done.append(True)
            act(progress)

    done: list[bool] = []
    progress = Progress(listen)
    return progress


def test_the_same_file_comes_of_it_and_the_job_has_ended(
    apart: DeliveryClient, journal: Journal, photo_file: Path
) -> None:
    said: list[float] = []
    here = run_job(journal, ordered(journal, photo_file, BICUBIC, "here.png"), Progress())
    done = apart.make(ordered(journal, photo_file, BICUBIC), Progress(lambda fraction, _: said.append(fraction)), 1)
    assert done.check.pixels_equal
    np.testing.assert_array_equal(np.asarray(Image.open(done.path)), np.asarray(Image.open(here.path)))
    assert said == sorted(said)
    assert journal.jobs() == []


def test_a_failure_is_told_in_the_same_words(apart: DeliveryClient, journal: Journal, photo_file: Path) -> None:
    job = ordered(journal, photo_file, BICUBIC)
    photo_file.write_bytes(b"another file")
    with pytest.raises(DeliveryError, match="has changed"):
        apart.make(job, Progress(), 1)
    assert journal.jobs() == []


def test_what_is_cancelled_leaves_no_file(apart: DeliveryClient, journal: Journal, large_file: Path) -> None:
    with pytest.raises(Cancelled):
        apart.make(ordered(journal, large_file, VELLUM), once_under_way(Progress.cancel), 1)
    assert left(large_file.parent) == ["large.png"]
    assert journal.jobs() == []


def test_what_is_cancelled_because_the_program_ends_stays_written_down(
    apart: DeliveryClient, journal: Journal, large_file: Path
) -> None:
    def end(progress: Progress) -> None:
        journal.pause()
        progress.cancel()

    job = ordered(journal, large_file, VELLUM)
    with pytest.raises(Cancelled):
        apart.make(job, once_under_way(end), 1)
    assert [kept.number for _, kept in journal.jobs()] == [job.number]


def test_what_does_not_obey_is_ended(
    apart: DeliveryClient, journal: Journal, large_file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(helper_module, "_PATIENCE_S", 0.5)

    def stop(progress: Progress) -> None:
        children()[0].send_signal(signal.SIGSTOP)
        progress.cancel()

    with pytest.raises(Cancelled):
        apart.make(ordered(journal, large_file, VELLUM), once_under_way(stop), 1)
    assert left(large_file.parent) == ["large.png"]
    assert journal.jobs() == []


def test_a_paused_file_goes_on(apart: DeliveryClient, journal: Journal, photo_file: Path) -> None:
    progress = Progress()
    progress.pause(True)
    made: list[Path] = []
    job = ordered(journal, photo_file, BICUBIC)
    lane = threading.Thread(target=lambda: made.append(apart.make(job, progress, 1).path))
    lane.start()
    lane.join(1.5)
    assert not made
    progress.pause(False)
    lane.join(60)
    assert made


def test_a_crash_costs_one_file_and_no_more(apart: DeliveryClient, journal: Journal, large_file: Path) -> None:
    with pytest.raises(DeliveryError, match="came to an end in the middle"):
        apart.make(ordered(journal, large_file, VELLUM), once_under_way(lambda _: children()[0].kill()), 1)
    assert left(large_file.parent) == ["large.png"]
    assert journal.jobs() == []
    assert apart.make(ordered(journal, large_file, BICUBIC), Progress(), 1).check.pixels_equal


@pytest.mark.skipif(not Path("/proc/self/oom_score_adj").exists(), reason="Linux alone has this")
def test_it_goes_before_the_window_when_memory_runs_out(
    apart: DeliveryClient, journal: Journal, photo_file: Path
) -> None:
    apart.make(ordered(journal, photo_file, BICUBIC), Progress(), 1)
    (maker,) = children()
    ours = int(Path("/proc/self/oom_score_adj").read_text())
    assert int(Path(f"/proc/{maker.pid}/oom_score_adj").read_text()) > ours
    assert maker.nice() > psutil.Process().nice()


def test_one_that_has_ended_while_idle_is_begun_anew(apart: DeliveryClient, journal: Journal, photo_file: Path) -> None:
    apart.warm_up()
    children()[0].send_signal(signal.SIGSTOP)  # it will not hear of the order
    threading.Timer(0.5, lambda: children()[0].kill()).start()
    assert apart.make(ordered(journal, photo_file, BICUBIC), Progress(), 1).check.pixels_equal


def test_it_ends_with_the_program(journal: Journal) -> None:
    program = os.fork()
    if program == 0:
        DeliveryClient(journal).warm_up()
        time.sleep(60)
    try:
        deadline = time.monotonic() + 30
        while not (begun := psutil.Process(program).children()) and time.monotonic() < deadline:
            time.sleep(0.05)
        os.kill(program, signal.SIGKILL)
        gone, alive = psutil.wait_procs(begun, 30)
        assert gone
        assert not alive
    finally:
        os.waitpid(program, 0)
