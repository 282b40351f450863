"""A file that changes on the disk while it is being worked on."""

from __future__ import annotations

import os
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS

from wamplex.app.window.main_window import DELIVER, TRIAL, MainWindow
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.workflow.orders.order import Order
from wamplex.core.workflow.queue.job import State
from wamplex.core.workflow.queue.journal import Journal, journal_path


def painted(path: Path, width: int, level: int) -> None:
    Image.fromarray(np.full((40, width, 3), level, np.uint8)).save(path)
    os.utime(path, ns=(level * 10**9, level * 10**9))


@pytest.fixture
def opened(window: MainWindow, qtbot: QtBot, tmp_path: Path) -> Path:
    path = tmp_path / "wall.png"
    painted(path, 60, 100)
    window.take_in([path])
    qtbot.waitUntil(lambda: bool(window.tray.usable), timeout=WAIT_MS)
    return path


def test_it_is_read_anew_and_said_so(window: MainWindow, qtbot: QtBot, opened: Path) -> None:
    entry = window.tray.entries[0]
    window.tray.set_framing(0, Framing(crop=Crop(x=0, y=0, width=50, height=30)))
    painted(opened, 80, 200)
    qtbot.waitUntil(lambda: entry.header is not None and entry.header.width == 80, timeout=WAIT_MS)
    assert "changed on the disk, read again" in window.tray_view.text_for(0)
    assert entry.thumbnail is not None
    assert entry.thumbnail.mean() > 190
    assert entry.framing.crop is not None  # what was decided stays where it fits
    assert entry.size is not None
    assert entry.size.source_width == 50
    assert not window.tray.undo()  # what came before was decided about another picture


def test_a_crop_that_no_longer_fits_is_taken_off(window: MainWindow, qtbot: QtBot, opened: Path) -> None:
    entry = window.tray.entries[0]
    window.tray.set_framing(0, Framing(crop=Crop(x=20, y=0, width=40, height=30)))
    painted(opened, 30, 200)
    qtbot.waitUntil(lambda: entry.header is not None and entry.header.width == 30, timeout=WAIT_MS)
    assert entry.framing == Framing()


def test_a_job_for_the_old_file_stops_with_a_sentence(
    window: MainWindow, qtbot: QtBot, opened: Path, tmp_path: Path
) -> None:
    window.open_step(DELIVER)
    window.deliver_step.pause_asked.emit(True)  # the button waits for a job
    window.deliver_step.deliver_one()
    painted(opened, 60, 200)
    window.deliver_step.pause_asked.emit(False)
    job = window.jobs.rows[0]
    qtbot.waitUntil(lambda: job.state is State.FAILED, timeout=WAIT_MS)
    assert "wall.png has changed on the disk" in job.text
    assert [path.name for path in tmp_path.iterdir()] == ["wall.png"]


def test_what_is_shown_is_never_of_the_old_file(window: MainWindow, qtbot: QtBot, opened: Path) -> None:
    window.open_step(TRIAL)
    window.watch.end()  # the bench notices by itself
    painted(opened, 60, 200)
    shown: list[int] = []
    window.workers.renderer.ready.connect(lambda _key, image: shown.append(image.pixelColor(9, 9).green()))
    window.store._cached.clear()
    window.trial_step.refresh()
    qtbot.waitUntil(lambda: bool(shown) and shown[-1] > 190, timeout=WAIT_MS)


def test_a_file_that_is_gone_and_comes_back_can_be_used_again(window: MainWindow, qtbot: QtBot, opened: Path) -> None:
    entry = window.tray.entries[0]
    opened.rename(opened.with_name("elsewhere.png"))
    qtbot.waitUntil(lambda: entry.error is not None, timeout=WAIT_MS)
    assert "wall.png: file not found" in window.tray_view.text_for(0)
    opened.with_name("elsewhere.png").rename(opened)
    qtbot.waitUntil(lambda: entry.error is None, timeout=WAIT_MS)
    assert entry.usable


def test_files_of_a_window_that_was_cut_off_are_made_at_the_next_start(
    window: MainWindow, qtbot: QtBot, photo_file: Path
) -> None:
    recipe = Recipe(base=TrialSpec(upscaler="bicubic"), factor=2.0)
    name = photo_file.with_name("photo-2x.tif")
    ended = Journal(journal_path(), owner=str(2**22 - 7))
    ended.add([Order(Source.of(photo_file), recipe, Delivery(), name, 1000)])
    window.delivery.take_up()
    assert "Wamplex was interrupted. 1 file resumed" in window.notices.text
    qtbot.waitUntil(lambda: not window.jobs.open, timeout=WAIT_MS)
    assert window.jobs.rows[0].result == name
    assert name.exists()
