"""Developing a raw file in the window: what is decided, and what the bench shows."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot
from tests.app.making import MeasuredHere
from tests.app.watching import WAIT_MS
from tests.cameras import CAMERA, chart, raw_file

from wamplex.app.project.tray_state import restore
from wamplex.app.shared.theme import deferred_stylesheet
from wamplex.app.tray.decision_transfer import DecisionTransfer
from wamplex.app.window import worker_set
from wamplex.app.window.main_window import DELIVER, TRIAL, MainWindow
from wamplex.core.model.development import Development, Light
from wamplex.core.workflow.projects.project import open_project


@pytest.fixture
def window(themed: QApplication, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[MainWindow]:
    monkeypatch.setattr(worker_set, "AssessmentClient", MeasuredHere)
    path = raw_file(tmp_path / "dim.dng", 0.5 * chart(300, 200))
    with deferred_stylesheet(themed):
        made = MainWindow()
    qtbot.addWidget(made)
    made.show()
    made.take_in([path])
    qtbot.waitUntil(lambda: bool(made.tray.entries) and made.tray.entries[0].suggested is not None, timeout=WAIT_MS)
    qtbot.waitUntil(lambda: not made.tray.thumbnails.to_be_developed, timeout=WAIT_MS)
    yield made
    made.end(asked=False)


def test_tessera_is_suggested_with_its_reason(window: MainWindow) -> None:
    entry = window.tray.entries[0]
    assert entry.delivered_upscaler == "tessera"
    assert "tessera" in [trial.upscaler_key for trial in entry.trials.remaining]
    assert "sensor" in window.assess_step.cards
    assert "Noise at mid-grey" in window.assess_step.cards["sensor"].text


def test_exposure_brightens_bench_and_recipe_and_can_be_taken_back(qtbot: QtBot, window: MainWindow) -> None:
    entry = window.tray.entries[0]
    assert entry.thumbnail is not None
    before = entry.thumbnail.mean()
    window.assess_step.developing.exposure.slider.setValue(20)  # one stop
    qtbot.waitUntil(lambda: entry.delivered_recipe().development == Development(exposure_ev=1.0))
    qtbot.waitUntil(lambda: entry.thumbnail is not None and entry.thumbnail.mean() > 1.2 * before)
    window.tray.undo()
    assert entry.delivered_recipe().development is None
    qtbot.waitUntil(lambda: entry.thumbnail is not None and abs(entry.thumbnail.mean() - before) < 1)


def test_the_light_begins_as_the_camera_noted_it(window: MainWindow) -> None:
    """The simulated camera is balanced for D65."""
    shown = window.assess_step.developing
    assert shown.kelvin.value == pytest.approx(6504, abs=60)
    assert not shown.as_shot.isVisible()
    shown.kelvin.field.setText("4000")
    shown.kelvin.field.editingFinished.emit()
    entry = window.tray.entries[0]
    assert entry.decisions.development.light == Light(kelvin=4000, tint=0)
    assert shown.as_shot.isVisible()


def test_a_place_that_is_pressed_becomes_grey(qtbot: QtBot, window: MainWindow) -> None:
    step, entry = window.assess_step, window.tray.entries[0]
    qtbot.mouseClick(step.developing.pick, Qt.MouseButton.LeftButton)
    box = step.view.box()
    place = QPointF(box.x() + 0.4 * box.width(), box.y() + 0.35 * box.height())
    qtbot.mouseClick(step.view, Qt.MouseButton.LeftButton, pos=place.toPoint())
    qtbot.waitUntil(lambda: entry.decisions.development.neutral is not None)
    qtbot.waitUntil(lambda: not window.tray.thumbnails.to_be_developed)
    assert entry.thumbnail is not None
    height, width = entry.thumbnail.shape[:2]
    patch = entry.thumbnail[int(0.33 * height) : int(0.37 * height), int(0.38 * width) : int(0.42 * width)]
    assert np.ptp(patch.mean(axis=(0, 1))) < 4
    assert entry.decisions.development.neutral != pytest.approx((CAMERA.gains[0], CAMERA.gains[2]), rel=0.1)
    assert not entry.spots or all(spot.kind != "own" for spot in entry.spots)  # no spot was placed


def test_projects_keep_how_it_is_developed(window: MainWindow, tmp_path: Path) -> None:
    wanted = Development(exposure_ev=0.5, highlights="rebuild", curve="shoulder", space="romm")
    window.tray.set_development(0, wanted, "all")
    window.project.save(tmp_path / "raw.wamplex")
    window.tray.set_development(0, Development(), "nothing")
    saved, _ = open_project(tmp_path / "raw.wamplex")
    restore(window.tray, 0, saved.pictures[0])
    assert window.tray.entries[0].decisions.development == wanted


def test_trials_can_have_tessera_and_other_pictures_cannot(qtbot: QtBot, window: MainWindow, photo_file: Path) -> None:
    window.take_in([photo_file])
    entries = window.tray.entries
    qtbot.waitUntil(lambda: len(entries) == 2 and entries[1].suggested is not None, timeout=WAIT_MS)
    both = DecisionTransfer(
        entries[0].delivered_recipe(), frozenset({"trial"}), remeasured=False, text="", trials=entries[0].trials
    )
    window.tray.carry([1], both)
    assert "tessera" not in [trial.upscaler_key for trial in entries[1].trials.rows]
    for number, offered in ((0, True), (1, False)):
        window.tray.select(number)
        window.open_step(TRIAL)
        assert window.trial_step.bar.for_raw is offered


def test_the_delivered_dng_is_named_for_what_it_is(window: MainWindow) -> None:
    window.open_step(DELIVER)
    panel = window.deliver_step.panel
    panel.use(panel.delivery.replace(format="dng"))
    window.deliver_step.refresh()
    assert "not clipped" in panel.format_text
    assert panel.name_text.startswith("dim-4x.dng")


def test_once_the_sliders_rest_it_is_measured_as_it_is_developed(qtbot: QtBot, window: MainWindow) -> None:
    entry = window.tray.entries[0]
    as_shot = entry.condition
    assert as_shot is not None
    window.tray.set_development(0, Development(exposure_ev=2.0), "exposure")
    qtbot.waitUntil(lambda: entry.condition is not as_shot and "subject" in entry.condition.measured, timeout=WAIT_MS)
    assert entry.condition is not None
    assert entry.condition.clipping.white > as_shot.clipping.white  # what it brightened is cut off now
    trial = next(t for t in entry.trials.remaining if t.upscaler_key == "tessera")
    assert entry.warning(trial) is None
