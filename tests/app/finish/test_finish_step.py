"""Finishing in the real window: layers, masks, strokes, faces, surface; what is seen is what is written."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QLineF, QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog
from pytestqt.qtbot import QtBot
from skimage import data
from tests.app.watching import WAIT_MS, assert_stays, grabbed

from wamplex.app.finish.finish_step import FinishStep
from wamplex.app.trial.sheet_export_controller import sheet_columns
from wamplex.app.window.main_window import DELIVER, FINISH, MainWindow
from wamplex.core.base.window import Window
from wamplex.core.finish.strokes import decode_points
from wamplex.core.intake.read import read_picture
from wamplex.core.model.assets import process_assets
from wamplex.core.model.finish_values import Mask
from wamplex.core.render.render import render
from wamplex.core.workflow.projects.project import open_project
from wamplex.core.workflow.queue.job import State

TakeIn = Callable[[list[Path]], None]


@pytest.fixture
def face_file(tmp_path: Path) -> Path:
    """A face (scikit-image's astronaut, public domain, NASA)."""
    path = tmp_path / "face.png"
    Image.fromarray(data.astronaut()[20:220, 130:330]).save(path)
    return path


@pytest.fixture
def step(window: MainWindow, take_in: TakeIn, qtbot: QtBot, face_file: Path) -> FinishStep:
    """The Finish step with a measured picture at 2x, all of it in view at 100 %."""
    take_in([face_file])
    entry = window.tray.entries[0]
    qtbot.waitUntil(lambda: entry.suggested is not None, timeout=WAIT_MS)
    assert entry.size is not None
    window.tray.set_size(0, entry.size.with_factor(2.0))
    window.open_step(FINISH)
    window.finish_step.viewport.set_zoom(1.0)
    return window.finish_step


def settle(step: FinishStep, qtbot: QtBot) -> None:
    """Wait until what is in view is made."""

    def made() -> bool:
        keys = [key for _, key in step.pane.needed_tiles()]
        return bool(keys) and all(step.tiles.cache.get(key) is not None for key in keys)

    qtbot.waitUntil(made, timeout=WAIT_MS)
    step.pane.idle()


def drag(step: FinishStep, source: list[tuple[float, float]]) -> None:
    """Draw through places of the source with the mouse."""
    points = [step.pane._shown(x, y).toPoint() for x, y in source]
    QTest.mousePress(step.pane, Qt.MouseButton.LeftButton, pos=points[0])
    for start, end in pairwise(points):
        for i in range(1, 9):
            QTest.mouseMove(step.pane, QLineF(start, end).pointAt(i / 8).toPoint())
    QTest.mouseRelease(step.pane, Qt.MouseButton.LeftButton, pos=points[-1])


def test_a_picture_is_finished_delivered_and_opened_again(
    window: MainWindow, step: FinishStep, qtbot: QtBot, tmp_path: Path
) -> None:
    """Stamp, lay another over a face, paint a stroke away, invert, undo, sharpen, grain, deliver."""
    entry = window.tray.entries[0]
    window.tray.set_trials(0, entry.trials.stamp("D"))
    step.add_layer(entry.trial_recipe(entry.trials.find("C")).base)
    step.begin_mask("faces")
    qtbot.waitUntil(lambda: entry.finish.layers[0].mask.initial_mask.kind == "faces", timeout=WAIT_MS)
    step.bar.tools.button_for("take").click()
    drag(step, [(80, 60), (120, 90)])
    mask = entry.finish.layers[0].mask
    assert mask.strokes is not None
    (stroke,) = decode_points(process_assets().get(mask.strokes))
    assert not stroke.adds
    assert stroke.points[0][:2] == pytest.approx((80, 60), abs=0.6)
    step.mix.invert_button.click()
    assert entry.finish.layers[0].mask.inverted
    window.undo()
    assert not entry.finish.layers[0].mask.inverted
    step.surface.sharpen["amount"].field.entered.emit(120.0)
    step.surface.grain["amount"].field.entered.emit(3.0)
    step.bar.masks.button_for("off").click()
    step.bar.tools.button_for("look").click()
    settle(step, qtbot)
    shown = grabbed(step.pane)
    seen = step.pane.visible()
    window.open_step(DELIVER)
    deliver = window.deliver_step
    deliver.panel.formats.button_for("png").click()
    deliver.panel.depths.button_for(8).click()
    deliver.all_button.click()
    qtbot.waitUntil(lambda: not window.jobs.open, timeout=WAIT_MS)
    (row,) = window.jobs.rows
    assert row.state is State.DONE
    assert row.result is not None
    with Image.open(row.result) as image:
        whole = np.asarray(image).astype(int)
    left, top = -round(seen.x()), -round(seen.y())
    in_pane = shown[top : top + 400, left : left + 400]
    away = np.abs(in_pane - whole)
    assert away.max() <= 1
    assert (away == 0).mean() > 0.999
    plain = render(read_picture(entry.path), entry.delivered_recipe().unfinished, Window(0, 0, 400, 400))
    assert np.abs(plain * 255 - whole).mean() > 1
    window.project.save(tmp_path / "kept.wamplex")
    again, parts = open_project(tmp_path / "kept.wamplex")
    process_assets().take_in(parts)
    recipe = again.pictures[0].recipe
    assert recipe == entry.delivered_recipe()
    made = render(read_picture(entry.path), recipe, Window(0, 0, 400, 400))
    assert np.abs(np.rint(made * 255) - whole).max() <= 1


def test_layers_are_listed_moved_copied_switched_and_removed(window: MainWindow, step: FinishStep) -> None:
    entry = window.tray.entries[0]
    for letter in ("A", "B"):
        step.add_layer(entry.trial_recipe(entry.trials.find(letter)).base)
    step.add_layer(None)
    assert [card.accessibleName().split()[0] for card in step.mix.cards] == ["Source", "Mitchell", "Bicubic"]
    step.mix.down_button.click()
    assert [card.accessibleName().split()[0] for card in step.mix.cards] == ["Mitchell", "Source", "Bicubic"]
    step.mix.twice_button.click()
    assert len(entry.finish.layers) == 4
    step.mix.on_button.click()
    assert not entry.finish.layers[2].on
    step.mix.remove_button.click()
    step.mix.strength.field.entered.emit(40.0)
    step.mix.feather.field.entered.emit(2.5)
    assert (entry.finish.layers[2].strength, entry.finish.layers[2].mask.feather_px) == (40, 2.5)
    for _ in range(20):
        window.undo()
    assert entry.finish.layers == ()


def test_masks_begin_at_tones_at_a_picked_colour_or_in_a_file(
    window: MainWindow, step: FinishStep, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    entry = window.tray.entries[0]
    step.add_layer(None)

    def begins(kind: str) -> None:
        qtbot.waitUntil(lambda: entry.finish.layers[0].mask.initial_mask.kind == kind, timeout=WAIT_MS)

    step.begin_mask("tones")
    begins("tones")
    step.begin_mask("colours")
    QTest.mousePress(step.pane, Qt.MouseButton.LeftButton, pos=step.pane._shown(100, 100).toPoint())
    begins("colours")
    assert entry.finish.layers[0].mask.initial_mask.colour is not None
    Image.fromarray(np.full((100, 100), 200, np.uint8)).save(tmp_path / "mask.png")
    chosen = lambda *_a: (str(tmp_path / "mask.png"), "")  # noqa: E731
    monkeypatch.setattr(QFileDialog, "getOpenFileName", chosen)
    step.begin_mask("file")
    begins("file")
    Image.fromarray(np.full((50, 100), 200, np.uint8)).save(tmp_path / "mask.png")
    said: list[str] = []
    step.announced.connect(said.append)
    step.begin_mask("file")
    qtbot.waitUntil(lambda: any("another shape" in words for words in said), timeout=WAIT_MS)
    step.bar.masks.button_for("alone").click()
    settle(step, qtbot)
    step.surface.sharpen["amount"].field.entered.emit(90.0)
    step.surface.where_asked.emit("sharpen", "not-layer")
    assert entry.finish.sharpen is not None
    assert entry.finish.sharpen.mask == entry.finish.layers[0].mask.replace(inverted=True)
    step.surface.where_asked.emit("sharpen", "everywhere")
    assert entry.finish.sharpen.mask == Mask()
    settle(step, qtbot)
    shown = grabbed(step.pane)
    middle = shown[shown.shape[0] // 2, shown.shape[1] // 2]
    assert middle[1] > middle[0]  # the accent's green over black


def test_faces_are_offered_ticked_added_and_removed(window: MainWindow, step: FinishStep) -> None:
    entry = window.tray.entries[0]
    assert len(step.faces.boxes) == 1
    assert entry.finish.faces is None  # nothing is done to a face by itself
    step.faces.boxes[0].click()
    assert entry.finish.faces is not None
    assert entry.finish.faces.ellipses[0].on
    step.faces.source_trial_asked.emit(entry.trial_recipe(entry.trials.find("A")).base)
    step.faces.attenuation.field.entered.emit(50.0)
    assert entry.delivered_recipe().faces == entry.finish.faces
    step.faces.one_asked.emit(0, entry.trial_recipe(entry.trials.find("B")).base, 70.0)
    assert (entry.finish.faces.ellipses[0].source_trial.upscaler, entry.finish.faces.ellipses[0].strength) == (
        "mitchell",
        70,
    )
    step.faces.add_button.click()
    drag(step, [(20, 120), (60, 180)])
    added = entry.finish.faces.ellipses[1]
    assert (added.x * 200, added.y * 200) == pytest.approx((40, 150), abs=1)
    assert (added.width, added.height) == pytest.approx((40, 60), abs=1)
    step.faces.removed.emit(1)
    assert len(entry.finish.faces.ellipses) == 1


def test_keys_hold_the_source_and_the_result_before_finish_and_change_the_brush(
    window: MainWindow, step: FinishStep, qtbot: QtBot
) -> None:
    step.surface.sharpen["amount"].field.entered.emit(300.0)
    settle(step, qtbot)
    after = grabbed(step.pane)
    step.pane.setFocus()
    qtbot.keyPress(step.pane, Qt.Key.Key_W)
    settle(step, qtbot)
    before = grabbed(step.pane)
    qtbot.keyRelease(step.pane, Qt.Key.Key_W)
    settle(step, qtbot)
    assert np.abs(before.astype(int) - after).max() > 10
    assert np.array_equal(grabbed(step.pane), after)
    qtbot.keyPress(step.pane, Qt.Key.Key_Q)
    assert step.pane._recipe is not None
    assert step.pane._recipe.upscaler == "nearest"
    qtbot.keyRelease(step.pane, Qt.Key.Key_Q)
    step.add_layer(None)
    size = step.pane.brush.size
    qtbot.keyClick(step.pane, Qt.Key.Key_Period)
    assert step.pane.brush.size == pytest.approx(size * 1.25)
    qtbot.keyClick(step.pane, Qt.Key.Key_A)
    assert not step.pane.brush.adds
    assert step.bar.tools.button_for("take").isChecked()
    qtbot.keyClick(step.pane, Qt.Key.Key_N)
    spot = window.tray.entries[0].spots[0]
    assert (step.viewport.centre_x, step.viewport.centre_y) == pytest.approx((spot.x, spot.y))


def test_the_brush_is_seen_before_its_pixels_are_there(step: FinishStep, qtbot: QtBot) -> None:
    step.add_layer(None)
    settle(step, qtbot)
    before = grabbed(step.pane)
    start = step.pane._shown(100, 100).toPoint()
    QTest.mousePress(step.pane, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(step.pane, start + QPoint(60, 0))
    under_way = grabbed(step.pane)
    QTest.mouseRelease(step.pane, Qt.MouseButton.LeftButton, pos=start + QPoint(60, 0))
    at = (start.y(), start.x() + 30)
    assert np.abs(under_way[at].astype(int) - before[at]).max() > 10


def test_other_work_waits_while_a_stroke_is_drawn(window: MainWindow, step: FinishStep, qtbot: QtBot) -> None:
    told: list[bool] = []
    step.add_layer(None)
    settle(step, qtbot)
    qtbot.waitUntil(lambda: not window.workers.loader.paused, timeout=WAIT_MS)
    step.moving.connect(told.append)
    QTest.mousePress(step.pane, Qt.MouseButton.LeftButton, pos=QPoint(90, 90))
    # Longer than a picture must lie still elsewhere.
    assert_stays(qtbot, lambda: told == [True] and window.workers.loader.paused, 700)
    QTest.mouseRelease(step.pane, Qt.MouseButton.LeftButton, pos=QPoint(95, 90))
    qtbot.waitUntil(lambda: told[-1] is False, timeout=WAIT_MS)
    assert not window.workers.loader.paused


def test_tone_comes_from_another_picture_of_the_tray(
    window: MainWindow, step: FinishStep, qtbot: QtBot, take_in: TakeIn, photo_file: Path
) -> None:
    take_in([photo_file])
    step.surface.reference_asked.emit(1, True)
    entry = window.tray.entries[0]
    qtbot.waitUntil(lambda: entry.finish.tone is not None, timeout=WAIT_MS)
    assert entry.finish.tone is not None
    assert entry.finish.tone.reference == photo_file.name
    step.surface.tone.field.entered.emit(30.0)
    assert entry.finish.tone.strength == 30
    step.surface.no_tone_button.click()
    assert entry.finish.tone is None


def test_readings_stand_before_and_after_with_a_warning_in_words(
    window: MainWindow, step: FinishStep, qtbot: QtBot
) -> None:
    assert not step.readings.isVisibleTo(step)
    step.surface.sharpen["amount"].field.entered.emit(400.0)
    step.surface.sharpen["halo_limit"].field.entered.emit(40.0)
    step.surface.sharpen["radius_mm"].field.entered.emit(0.3)
    qtbot.waitUntil(lambda: "halos" in step.readings.warning.text(), timeout=WAIT_MS)
    assert step.readings.isVisibleTo(step)
    names = [(column.letter, column.name) for column in sheet_columns(window.tray.entries[0])]
    assert names[names.index(("D", "Vellum")) + 1] == ("D+", "Vellum, finished")


def test_a_closer_look_offers_faces_on_tilted_heads(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, tmp_path: Path
) -> None:
    """The astronaut lying on her side, small in a corner; found and offered, not taken."""
    lying = Image.fromarray(np.rot90(data.astronaut()[:300, 100:400]))
    ground = Image.new("RGB", (300, 300), (128, 128, 128))
    ground.paste(lying.resize((75, 75), Image.Resampling.LANCZOS))
    ground.save(tmp_path / "lying.png")
    take_in([tmp_path / "lying.png"])
    entry = window.tray.entries[0]
    qtbot.waitUntil(lambda: entry.suggested is not None, timeout=WAIT_MS)
    assert entry.condition is not None
    assert entry.condition.faces == ()
    window.open_step(FINISH)
    window.finish_step.faces.closer_button.click()
    qtbot.waitUntil(lambda: entry.finish.faces is not None, timeout=WAIT_MS)
    assert entry.finish.faces is not None
    (face,) = entry.finish.faces.ellipses
    assert not face.on
    assert face.angle_deg == pytest.approx(-90, abs=25)
    # Her eyes are at (122, 100) of the upright part, so at a quarter of (100, 178) here.
    assert (face.x * 300, face.y * 300) == pytest.approx((25, 44.5), abs=6)
