"""Crop, straightening, paper and wall in the real window; what is shown is what is written."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from types import SimpleNamespace

import numpy as np
import psutil
import pytest
import tifffile
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QInputDialog
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS, grabbed

from wamplex.app.size.sheet_editor import SheetEditor
from wamplex.app.size.size_step import SizeStep
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.window.main_window import DELIVER, SIZE, TRIAL, MainWindow
from wamplex.core.base.window import Window
from wamplex.core.demo import demo_pictures
from wamplex.core.geometry.framing import Framing
from wamplex.core.intake.read import read_picture
from wamplex.core.preview.result_preview import preview
from wamplex.core.workflow.queue.job import State

TakeIn = Callable[[list[Path]], None]


def opened(window: MainWindow, take_in: TakeIn, path: Path) -> tuple[SizeStep, TrayEntry]:
    take_in([path])
    window.open_step(SIZE)
    return window.size_step, window.tray.entries[0]


def choose_paper(step: SizeStep, name: str) -> None:
    editor = step.panel.sheet
    index = editor.papers.findText(name, Qt.MatchFlag.MatchStartsWith)
    editor.papers.setCurrentIndex(index)
    editor.papers.activated.emit(index)


def enter(qtbot: QtBot, field, text: str) -> None:  # type: ignore[no-untyped-def]
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, Qt.Key.Key_Return)


def test_the_crop_frame_is_dragged(window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path) -> None:
    step, entry = opened(window, take_in, photo_file)
    frame = step.crop.frame_rect()
    corner = frame.bottomRight().toPoint()
    inward = corner - QPoint(round(50 * step.crop.scale()), round(30 * step.crop.scale()))
    qtbot.mousePress(step.crop, Qt.MouseButton.LeftButton, pos=corner)
    qtbot.mouseMove(step.crop, inward)
    qtbot.mouseRelease(step.crop, Qt.MouseButton.LeftButton, pos=inward)
    assert entry.size is not None
    assert (entry.size.source_width, entry.size.source_height) == (100, 90)
    assert step.table.headline.startswith("4× gives 400 × 360 px")
    qtbot.keyClick(step.crop, Qt.Key.Key_Right)
    assert entry.framing.crop is not None
    assert entry.framing.crop.x > 0
    assert window.tray.undo()
    assert window.tray.undo()
    assert entry.framing == Framing()
    assert entry.size.source_width == 150


def test_a_level_line_straightens(window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path) -> None:
    step, entry = opened(window, take_in, photo_file)
    step.crop.draw_line(True)
    qtbot.mousePress(step.crop, Qt.MouseButton.LeftButton, pos=QPoint(40, 100))
    qtbot.mouseMove(step.crop, QPoint(240, 86))
    qtbot.mouseRelease(step.crop, Qt.MouseButton.LeftButton, pos=QPoint(240, 86))
    assert entry.framing.straighten_deg == pytest.approx(np.degrees(np.arctan(14 / 200)), abs=0.01)
    enter(qtbot, step.angle, "-2.5")
    assert entry.framing.straighten_deg == -2.5


def test_a_ratio_lies_as_the_picture_does(window: MainWindow, take_in: TakeIn, photo_file: Path) -> None:
    step, entry = opened(window, take_in, photo_file)
    index = step.ratios.findText("3 : 2")
    step.ratios.setCurrentIndex(index)
    step.ratios.activated.emit(index)
    assert entry.size is not None
    assert (entry.size.source_width, entry.size.source_height) == (150, 100)
    step._frame_by(lambda framing, w, h: framing.replace(turns=1, crop=None))
    step.ratios.activated.emit(index)
    assert (entry.size.source_width, entry.size.source_height) == (100, 150)


def test_on_a_sheet_density_follows_the_factor(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
) -> None:
    step, entry = opened(window, take_in, photo_file)
    choose_paper(step, "A6")
    assert entry.size is not None
    assert entry.sheet is not None
    # 148 mm by 105 mm: the picture of 5 : 4 is 131 mm wide, at 300 ppi more than eight times its pixels.
    assert (entry.size.factor, round(entry.size.density_ppi)) == (8.0, round(1200 / (131.25 / 25.4)))
    enter(qtbot, step.panel.factor, "4")
    assert entry.size.density_ppi == pytest.approx(600 / (131.25 / 25.4), rel=1e-3)
    assert not step.panel.print_width.isEnabled()
    assert "eye resolves" in step.panel.advice_text
    enter(qtbot, step.panel.sheet.viewing_distance, "3")
    assert "eye resolves" not in step.panel.advice_text
    step.panel.sheet.places.button_for("fill").click()
    assert entry.size.source_width / entry.size.source_height == pytest.approx(148 / 105, rel=0.01)
    enter(qtbot, step.panel.sheet.margin, "80")
    assert "nothing is left" in step.panel.refusal_text
    assert entry.sheet.margin_mm == 0


def test_too_little_memory_is_said_before_any_work(
    window: MainWindow, take_in: TakeIn, photo_file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    step, _ = opened(window, take_in, photo_file)
    assert "memory" not in step.panel.advice_text
    monkeypatch.setattr(psutil, "virtual_memory", lambda: SimpleNamespace(available=900_000_000))
    step.refresh()
    assert "takes about 1.2 GB of memory" in step.panel.advice_text
    assert "900 MB are free: close other programs first." in step.panel.advice_text


def test_own_sheets_are_kept(
    window: MainWindow, take_in: TakeIn, photo_file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    step, entry = opened(window, take_in, photo_file)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_a: ("33x44cm", True))
    choose_paper(step, "another size")
    assert entry.sheet is not None
    assert (entry.sheet.width_mm, entry.sheet.height_mm) == (440, 330)
    assert SheetEditor().papers.findText("33x44cm", Qt.MatchFlag.MatchStartsWith) > 0


@pytest.mark.parametrize("path", list(demo_pictures()), ids=lambda p: p.stem)
def test_both_steps_work_on_every_demo_picture(path: Path, window: MainWindow, take_in: TakeIn, qtbot: QtBot) -> None:
    step, entry = opened(window, take_in, path)
    qtbot.waitUntil(lambda: entry.suggested is not None, timeout=WAIT_MS)
    assert {"compression", "noise", "blur", "medium", "faces", "size"} <= set(window.assess_step.cards)
    for view in ("crop", "paper", "wall"):
        step.views.button_for(view).click()
    choose_paper(step, "A3")
    assert "A3 sheet" in step.paper.caption
    assert "arc minutes" in step.wall.caption
    qtbot.waitUntil(lambda: len(np.unique(grabbed(step.wall).reshape(-1, 3), axis=0)) > 200, timeout=WAIT_MS)


def test_a_framed_picture_on_a_sheet_is_judged_and_delivered_alike(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
) -> None:
    step, entry = opened(window, take_in, photo_file)
    step._frame_by(lambda f, w, h: f.replace(turns=1, straighten_deg=3.0))
    choose_paper(step, "A6")
    enter(qtbot, step.panel.factor, "3")
    enter(qtbot, step.panel.sheet.margin, "5")
    window.open_step(TRIAL)
    pane = window.trial_step.panes["A"]
    key = next(k for _, k in pane.needed_tiles())
    qtbot.waitUntil(lambda: window.trial_step.cache.get(key) is not None, timeout=WAIT_MS)
    window.trial_step.panel.stamp_asked.emit("A")
    window.open_step(DELIVER)
    window.deliver_step.panel.depths.button_for(8).click()
    window.deliver_step.all_button.click()
    qtbot.waitUntil(lambda: not window.jobs.open, timeout=WAIT_MS)
    job = window.jobs.rows[0]
    assert job.state is State.DONE
    assert job.result is not None
    assert entry.size is not None
    written = tifffile.imread(job.result)
    width, height = entry.size.width_px, entry.size.height_px
    x, y = (written.shape[1] - width) // 2, (written.shape[0] - height) // 2
    shown = preview(read_picture(photo_file), key.recipe, Window(0, 0, width, height))
    assert np.array_equal(written[y : y + height, x : x + width], shown)
    assert (written[:2] == 255).all()
