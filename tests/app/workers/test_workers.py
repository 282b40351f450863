"""The threads by themselves: order, cancelling, pausing."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QObject, QSize
from pytestqt.qtbot import QtBot
from tests.app.making import Here, MeasuredHere
from tests.app.watching import WAIT_MS, assert_stays

from wamplex.app.shared.render_requests import TileKey
from wamplex.app.workers.files.loader import Loader
from wamplex.app.workers.latest import LatestRequests
from wamplex.app.workers.output import delivery as delivery_module
from wamplex.app.workers.output.delivery import DeliveryOrder, DeliveryThread
from wamplex.app.workers.rendering import tiles as tiles_module
from wamplex.app.workers.rendering.tiles import TileRenderer
from wamplex.core.base.progress import Progress
from wamplex.core.base.thread_priority import FOR_THE_EYE
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.intake.read import read_picture
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.preview.result_preview import preview
from wamplex.core.workflow.orders.order import Order
from wamplex.core.workflow.queue import run_job as run_module
from wamplex.core.workflow.queue.job import Job
from wamplex.core.workflow.queue.journal import Journal, journal_path

PNG = Delivery(format="png")


def delivering() -> DeliveryThread:
    journal = Journal(journal_path())
    return DeliveryThread(journal, Here(journal))


@pytest.fixture
def renderer(qtbot: QtBot) -> Iterator[TileRenderer]:
    made = TileRenderer(PictureCache())
    made.start()
    yield made
    made.end()


@pytest.mark.skipif(not Path("/proc/self/task").exists(), reason="threads have no niceness here")
def test_workers_stand_back_for_the_window(renderer: TileRenderer, qtbot: QtBot) -> None:
    def niceness() -> set[int]:
        found = set()
        for folder in Path("/proc/self/task").iterdir():
            with suppress(ProcessLookupError):  # it may have ended meanwhile
                found.add(os.getpriority(os.PRIO_PROCESS, int(folder.name)))
        return found

    own = os.getpriority(os.PRIO_PROCESS, os.getpid())
    assert own < FOR_THE_EYE
    qtbot.waitUntil(lambda: FOR_THE_EYE in niceness(), timeout=WAIT_MS)
    assert os.getpriority(os.PRIO_PROCESS, os.getpid()) == own


def ordered(number: int, source: Source, recipe: Recipe) -> DeliveryOrder:
    planned = Order(source, recipe, PNG, source.path.with_name("made.png"), 1000)
    return DeliveryOrder(number, Journal(journal_path()).add([planned])[0])


def keys(path: Path, upscaler: str, count: int) -> list[TileKey]:
    source = Source.of(path) if path.exists() else Source(path, 1, 1)
    recipe = Recipe(base=TrialSpec(upscaler=upscaler), factor=8.0)
    return [TileKey(source, recipe, 1, i % 2, i // 2) for i in range(count)]


def test_tiles_arrive_in_the_order_asked_for(renderer: TileRenderer, qtbot: QtBot, photo_file: Path) -> None:
    wanted, made = keys(photo_file, "nearest", 4), []
    renderer.ready.connect(lambda key, image: made.append((key, image.size())))
    renderer.request(wanted)
    qtbot.waitUntil(lambda: len(made) == 4, timeout=WAIT_MS)
    assert [key for key, _ in made] == wanted
    assert made[0][1] == QSize(512, 512)


def test_a_newer_list_replaces_the_older(
    renderer: TileRenderer, qtbot: QtBot, photo_file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    begun, real = threading.Event(), preview

    def slow(picture, recipe, window, reduce, progress, view):  # type: ignore[no-untyped-def]
        begun.set()
        while recipe.upscaler == "bilinear":
            progress.check()
        return real(picture, recipe, window, reduce, progress, view)

    monkeypatch.setattr(tiles_module, "preview", slow)
    made: list[TileKey] = []
    renderer.ready.connect(lambda key, _image: made.append(key))
    renderer.request(keys(photo_file, "bilinear", 3))
    qtbot.waitUntil(begun.is_set, timeout=WAIT_MS)
    renderer.request(keys(photo_file, "nearest", 1))
    qtbot.waitUntil(lambda: len(made) == 1, timeout=WAIT_MS)
    assert made[0].recipe.upscaler == "nearest"


def test_unreadable_pictures_are_told_once(renderer: TileRenderer, qtbot: QtBot, tmp_path: Path) -> None:
    told: list[str] = []
    renderer.failed.connect(lambda _path, sentence: told.append(sentence))
    renderer.request(keys(tmp_path / "gone.png", "nearest", 4))
    # The sentence is on its way to this thread when the other one is done already.
    qtbot.waitUntil(lambda: bool(told) and not renderer.busy, timeout=WAIT_MS)
    assert_stays(qtbot, lambda: len(told) == 1, 20)
    assert "gone.png: file not found" in told[0]


def test_a_fault_of_the_program_is_told_and_the_work_goes_on(
    renderer: TileRenderer, qtbot: QtBot, photo_file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    real = preview

    def faulty(picture, recipe, *place):  # type: ignore[no-untyped-def]
        return {}[recipe.upscaler] if recipe.upscaler == "bilinear" else real(picture, recipe, *place)

    monkeypatch.setattr(tiles_module, "preview", faulty)
    said: list[str] = []
    renderer.failed.connect(lambda _path, sentence: said.append(sentence))
    renderer.ready.connect(lambda _key, _pixels: said.append("made"))
    renderer.request(keys(photo_file, "bilinear", 1))
    qtbot.waitUntil(lambda: len(said) == 1, timeout=WAIT_MS)
    assert "Wamplex failed here (KeyError: 'bilinear')" in said[0]
    renderer.request(keys(photo_file, "nearest", 1))
    qtbot.waitUntil(lambda: said[1:] == ["made"], timeout=WAIT_MS)


def test_a_fault_in_one_delivery_leaves_the_others(
    qtbot: QtBot, photo_file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    real, thread = read_picture, delivering()

    def faulty(path: Path, progress: Progress) -> Picture:
        if path.name == "odd.png":
            raise ZeroDivisionError("odd")
        return real(path, progress)

    monkeypatch.setattr(run_module, "read_picture", faulty)
    odd = photo_file.with_name("odd.png")
    odd.write_bytes(b"odd")
    recipe = Recipe(base=TrialSpec(upscaler="bicubic"), factor=2.0)
    said: list[tuple[int, str]] = []
    thread.failed.connect(lambda number, _sentence: said.append((number, "failed")))
    thread.delivered.connect(lambda number, _done: said.append((number, "delivered")))
    thread.start()
    try:
        thread.put(ordered(0, Source.of(odd), recipe))
        thread.put(ordered(1, Source.of(photo_file), recipe))
        qtbot.waitUntil(lambda: said == [(0, "failed"), (1, "delivered")], timeout=WAIT_MS)
    finally:
        thread.end()


def test_a_worker_outlives_a_fault(qtbot: QtBot) -> None:
    class Shaky(LatestRequests[int]):
        def make(self, request: int, done: int, total: int, progress: Progress) -> None:
            said.append(f"{1 // request}")

    said: list[str] = []
    worker = Shaky()
    worker.broke.connect(said.append)
    worker.start()
    try:
        worker.request([0, 1])
        qtbot.waitUntil(lambda: len(said) == 2, timeout=WAIT_MS)
    finally:
        worker.end()
    assert "1" in said
    assert any("ZeroDivisionError" in words for words in said)


def test_paused_deliveries_wait_and_go_on(qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "a.png"
    Image.fromarray(np.zeros((40, 40, 3), np.uint8)).save(path)
    thread = delivering()
    thread.start()
    begun: list[int] = []
    done: list[int] = []
    thread.started_job.connect(begun.append)
    thread.delivered.connect(lambda number, _done: done.append(number))
    try:
        thread.pause(True)
        thread.put(ordered(0, Source.of(path), Recipe(base=TrialSpec(upscaler="bicubic"))))
        qtbot.waitUntil(lambda: begun == [0], timeout=WAIT_MS)
        assert done == []
        thread.pause(False)
        qtbot.waitUntil(lambda: done == [0], timeout=WAIT_MS)
    finally:
        thread.end()


@pytest.mark.parametrize(("size", "together"), [(1_000_000, 2), (400_000_000, 1)], ids=["small", "large"])
def test_small_files_are_made_two_at_a_time(
    qtbot: QtBot, photo_file: Path, monkeypatch: pytest.MonkeyPatch, size: int, together: int
) -> None:
    """In their order, and never two large ones, which would take twice the memory."""
    running: list[int] = []
    most: list[int] = []

    def make(job: Job, _progress: Progress, at_once: int) -> str:
        running.append(job.number)
        most.append(len(running))
        assert at_once <= together
        time.sleep(0.05)
        running.remove(job.number)
        return "done"

    monkeypatch.setattr(delivery_module, "_AT_ONCE", 2)
    thread = delivering()
    monkeypatch.setattr(thread.maker, "make", make)
    begun: list[int] = []
    thread.started_job.connect(begun.append)
    done: list[int] = []
    thread.delivered.connect(lambda number, _done: done.append(number))
    for number in range(5):
        order = ordered(number, Source.of(photo_file), Recipe())
        thread.put(DeliveryOrder(number, replace(order.job, number=number, expected_bytes=size)))
    thread.start()
    try:
        qtbot.waitUntil(lambda: sorted(done) == list(range(5)), timeout=WAIT_MS)
    finally:
        thread.end()
    assert max(most) == together
    assert sorted(begun[:2]) == [0, 1]


def test_waiting_orders_can_be_taken_back(qtbot: QtBot, photo_file: Path) -> None:
    thread = delivering()
    cancelled: list[int] = []
    thread.cancelled.connect(cancelled.append)
    thread.put(ordered(7, Source.of(photo_file), Recipe()))
    thread.cancel({7})
    assert cancelled == [7]
    thread.start()
    thread.end()
    assert [p.name for p in photo_file.parent.iterdir()] == ["photo.png"]


def test_a_loader_that_has_finished_begins_nothing(qtbot: QtBot, photo_file: Path) -> None:
    """A file that changes while the window is taken apart asks once more."""
    parent = QObject()
    loader = Loader(MeasuredHere(), parent)
    loader.finish()
    with qtbot.assertNotEmitted(loader.looked, wait=200):
        loader.look(photo_file)
