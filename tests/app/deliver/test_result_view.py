"""Results stand under their sources in the tray, and are looked at beside them."""

from __future__ import annotations

import csv
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS

from wamplex.app.window.main_window import DELIVER, TRIAL, MainWindow
from wamplex.core.base.progress import Progress
from wamplex.core.deliver.deliver import deliver
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.intake.read import read_picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.workflow.queue.job import State

TakeIn = Callable[[list[Path]], None]


@pytest.fixture
def delivered(window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path) -> MainWindow:
    take_in([photo_file])
    qtbot.waitUntil(lambda: window.tray.entry(0).suggested is not None, timeout=WAIT_MS)
    window.tray.set_trials(0, window.tray.entry(0).trials.stamp("B"))
    window.open_step(DELIVER)
    window.deliver_step.panel.use(Delivery(format="png", depth=8))
    window.deliver_step.deliver_one()
    qtbot.waitUntil(lambda: window.jobs.rows[0].state is State.DONE, timeout=WAIT_MS)
    return window


def test_a_file_just_made_is_seen_beside_its_source_at_the_spots(delivered: MainWindow, qtbot: QtBot) -> None:
    step = delivered.deliver_step
    step.rows[0].look.click()
    view = step.result_view
    qtbot.waitUntil(lambda: all(p.pixels is not None for p in view.panes), timeout=WAIT_MS)
    qtbot.waitUntil(lambda: "Halos" in view.text, timeout=WAIT_MS)
    path = delivered.jobs.rows[0].result
    assert path is not None
    assert path.name in view.text
    assert "600 × 480 px" in view.text
    look = view.asked
    assert look is not None
    window = look.window
    whole = np.rint(read_picture(path).pixels * 255).astype(np.uint8)
    part = whole[window.y : window.bottom, window.x : window.right]
    np.testing.assert_array_equal(view.panes[1].pixels, part)
    first = look.places
    view.step(1)
    assert view.asked is not None
    assert view.asked.places != first
    view._to_trial()
    assert delivered._steps.currentIndex() == TRIAL


def test_it_stands_under_its_source_in_this_session_and_the_next(
    delivered: MainWindow, qtbot: QtBot, photo_file: Path
) -> None:
    rows = delivered.tray_view.list.model()
    qtbot.waitUntil(lambda: rows.rowCount() == 2, timeout=WAIT_MS)
    other = MainWindow()
    qtbot.addWidget(other)
    other.show()
    other.take_in([photo_file])
    again = other.tray_view.list
    qtbot.waitUntil(lambda: again.model().rowCount() == 2, timeout=WAIT_MS)
    again.setCurrentIndex(again.model().index(1, 0))
    assert other._steps.currentIndex() == DELIVER
    view = other.deliver_step.result_view
    qtbot.waitUntil(lambda: all(p.pixels is not None for p in view.panes), timeout=WAIT_MS)
    assert other.tray.current is other.tray.entry(0)
    other.close()


def test_on_a_sheet_both_panes_show_the_same_place(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
) -> None:
    sheet = Sheet(width_mm=40, height_mm=40, place="fit", margin_mm=4)
    recipe = Recipe(base=TrialSpec(upscaler="bicubic"), factor=2, sheet=sheet)
    wanted = Delivery(format="png", depth=8, name_pattern="sheet")
    deliver(read_picture(photo_file), recipe, wanted, Progress())
    take_in([photo_file])
    qtbot.waitUntil(lambda: len(window.tray.entry(0).info.results) == 1, timeout=WAIT_MS)
    window.lineage.look_at(0, window.tray.entry(0).info.results[0])
    panes = window.deliver_step.result_view.panes
    qtbot.waitUntil(lambda: all(p.pixels is not None for p in panes), timeout=WAIT_MS)
    np.testing.assert_allclose(panes[0].pixels, panes[1].pixels, atol=1)  # type: ignore[arg-type]


def test_a_result_opened_alone_finds_its_source(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
) -> None:
    wanted = Delivery(format="png", folder=photo_file.parent / "large")
    recipe = Recipe(base=TrialSpec(upscaler="bicubic"), factor=2)
    made = deliver(read_picture(photo_file), recipe, wanted, Progress()).path
    take_in([made])
    window.lineage.open_source_of(0)
    qtbot.waitUntil(lambda: len(window.tray.entries) == 2, timeout=WAIT_MS)
    assert window.tray.entry(1).path == photo_file
    photo_file.unlink()
    window.lineage.open_source_of(0)
    qtbot.waitUntil(lambda: "was not found, neither" in window.notices.text, timeout=WAIT_MS)


def test_the_report_tells_of_every_file_and_of_what_failed(delivered: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    delivered.jobs.add_failed(Path("/gone/away.jpg"), "away.jpg is gone.")
    delivered.deliver_step.report_asked.emit(tmp_path / "report.csv")
    rows = list(csv.DictReader((tmp_path / "report.csv").open(encoding="utf-8")))
    assert [row["upscaler"] for row in rows] == ["mitchell", ""]
    assert (rows[0]["width"], rows[0]["height"], rows[1]["error"]) == ("600", "480", "away.jpg is gone.")
    assert float(rows[0]["seconds"]) > 0
    delivered.deliver_step.report_asked.emit(tmp_path / "report.txt")
    assert ".csv or .json" in delivered.notices.text


def test_what_it_will_take_is_known_after_the_first_file(delivered: MainWindow, qtbot: QtBot) -> None:
    assert "as measured here" in delivered.deliver_step.panel.name_text
    assert " free." in delivered.deliver_step.panel.name_text
    delivered.delivery._thread.pause(True)
    for _ in range(3):
        delivered.deliver_step.deliver_all()
    qtbot.waitUntil(lambda: len(delivered.jobs.rows) == 4, timeout=WAIT_MS)
    assert delivered.jobs.seconds_left is not None
    delivered.deliver_step.rows[3].first.click()
    assert delivered.delivery._thread._orders[0].number == 3
    delivered.delivery._thread.pause(False)
