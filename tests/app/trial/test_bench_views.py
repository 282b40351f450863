"""The views of the Trial step: in each of them, the pixels on screen are those of the file."""

from __future__ import annotations

import json
import shutil
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QApplication, QInputDialog, QLabel, QWidget
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS, grabbed

from wamplex.app.bench.pane import Pane
from wamplex.app.window.main_window import DELIVER, TRIAL, MainWindow
from wamplex.core.demo import demo_pictures

TakeIn = Callable[[list[Path]], None]


@pytest.fixture
def bench(window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path) -> MainWindow:
    """The window with a measured picture on the Trial step."""
    take_in([photo_file])
    entry = window.tray.entries[0]
    qtbot.waitUntil(lambda: bool(entry.spots), timeout=WAIT_MS)
    assert entry.size is not None
    window.tray.set_size(0, entry.size.with_factor(2))  # a quarter of the work
    window.open_step(TRIAL)
    return window


def wait_for_tiles(window: MainWindow, qtbot: QtBot) -> None:
    step = window.trial_step

    def all_made() -> bool:
        rows = list(step.open_view.needed_tiles())
        return bool(rows) and all(step.cache.get(key) is not None for _, _, key in rows)

    QApplication.sendPostedEvents()  # what was just opened gets its place first
    QApplication.processEvents()
    qtbot.waitUntil(all_made, timeout=WAIT_MS)


def in_file(pane: Pane, whole: np.ndarray) -> tuple[np.ndarray, slice, slice]:
    """The file's pixels where the pane looks, and which part of the pane they fill."""
    seen = pane.visible()
    left, top = round(seen.x()), round(seen.y())
    rows = slice(max(-top, 0), min(whole.shape[0] - top, pane.height()))
    columns = slice(max(-left, 0), min(whole.shape[1] - left, pane.width()))
    part = whole[top + rows.start : top + rows.stop, left + columns.start : left + columns.stop]
    return part, rows, columns


def deliver(window: MainWindow, qtbot: QtBot, letter: str) -> np.ndarray:
    """The 8-bit file that a trial is delivered as."""
    trials = window.tray.entries[0].trials
    if trials.stamped != letter:
        window.tray.set_trials(0, trials.stamp(letter))
    window.open_step(DELIVER)
    panel = window.deliver_step.panel
    panel.formats.button_for("png").click()
    panel.depths.button_for(8).click()
    window.deliver_step.all_button.click()
    qtbot.waitUntil(lambda: not window.jobs.open, timeout=WAIT_MS)
    window.open_step(TRIAL)
    with Image.open(str(window.jobs.rows[-1].result)) as image:
        return np.asarray(image)


def assert_same(shown: np.ndarray, expected: np.ndarray) -> None:
    assert shown.size > 3000
    difference = np.abs(shown.astype(int) - expected)
    assert difference.max() <= 1
    assert (difference == 0).mean() > 0.999


def test_every_cell_of_the_sheet_is_that_place_of_the_file(bench: MainWindow, qtbot: QtBot) -> None:
    step = bench.trial_step
    step.show_view("sheet")
    wait_for_tiles(bench, qtbot)
    for letter in ("A", "D"):
        whole = deliver(bench, qtbot, letter)
        wait_for_tiles(bench, qtbot)
        seen = {key[2].place for key in step.sheet.needed_tiles()}
        for (_, of), cell in step.sheet.cells.items():
            if of == letter and next(iter(cell.needed_tiles()))[1].place in seen:
                part, rows, columns = in_file(cell, whole)
                assert_same(grabbed(cell)[rows, columns], part)


def test_curtain_shows_both_files(bench: MainWindow, qtbot: QtBot) -> None:
    step = bench.trial_step
    step.show_view("curtain")
    pair = step.pair
    pair.first.setCurrentIndex(pair.first.findData("A"))
    pair.second.setCurrentIndex(pair.second.findData("D"))
    pair.first.activated.emit(0)
    wait_for_tiles(bench, qtbot)
    left, right = (deliver(bench, qtbot, letter) for letter in ("A", "D"))
    wait_for_tiles(bench, qtbot)
    middle = pair.curtain.width() // 2
    for whole, side in ((left, slice(0, middle - 5)), (right, slice(middle + 5, None))):
        part, rows, columns = in_file(pair.curtain, whole)
        blank = np.full((pair.curtain.height(), pair.curtain.width(), 3), 0x76, np.uint8)
        blank[rows, columns] = part
        assert_same(grabbed(pair.curtain)[rows, side], blank[rows, side])
    handle = QPointF(middle, 100).toPoint()
    qtbot.mousePress(pair.curtain, Qt.MouseButton.LeftButton, pos=handle)
    qtbot.mouseMove(pair.curtain, QPointF(middle / 2, 100).toPoint())
    assert pair.curtain.divider == pytest.approx(0.25, abs=0.01)
    pair.turn.click()
    assert not pair.curtain.upright


def test_blink_takes_turns_and_can_be_paused(bench: MainWindow, qtbot: QtBot) -> None:
    step = bench.trial_step
    step.show_view("blink")
    pair = step.pair
    pair.rates.button_for(250).click()
    wait_for_tiles(bench, qtbot)
    pictures = set()

    def both_seen() -> bool:
        pictures.add(grabbed(pair.plain).tobytes())
        return len(pictures) >= 2

    qtbot.waitUntil(both_seen, timeout=WAIT_MS)
    qtbot.keyClick(pair.plain, Qt.Key.Key_Space)
    assert pair.paused
    wait_for_tiles(bench, qtbot)
    held = grabbed(pair.plain)
    assert not pair.blinking
    assert np.array_equal(grabbed(pair.plain), held)
    letter = pair.now_shown
    whole = deliver(bench, qtbot, letter)
    wait_for_tiles(bench, qtbot)
    part, rows, columns = in_file(pair.plain, whole)
    assert_same(grabbed(pair.plain)[rows, columns], part)


def test_difference_is_that_of_the_files(bench: MainWindow, qtbot: QtBot) -> None:
    step = bench.trial_step
    step.show_view("difference")
    first, second = str(step.pair.first.currentData()), str(step.pair.second.currentData())
    one, two = (deliver(bench, qtbot, letter).astype(int) for letter in (first, second))
    wait_for_tiles(bench, qtbot)
    expected = np.clip(128 + 4 * (one - two), 0, 255).astype(np.uint8)
    part, rows, columns = in_file(step.pair.plain, expected)
    shown = grabbed(step.pair.plain)[rows, columns]
    assert np.abs(shown.astype(int) - part).max() <= 8  # of rounding, four times as strong
    assert (np.abs(shown.astype(int) - part) == 0).mean() > 0.99


def test_traces_are_drawn_and_taken_off(bench: MainWindow, qtbot: QtBot) -> None:
    step = bench.trial_step
    wait_for_tiles(bench, qtbot)
    before = grabbed(step.panes["A"])
    step.bar.trace_chosen.emit("stair-steps")
    assert step.bar.trace_button.text() == "Trace: stair-steps"
    wait_for_tiles(bench, qtbot)
    traced = grabbed(step.panes["A"]).astype(int)
    amber = (traced[..., 0] - traced[..., 2] > 60).mean()
    assert 0.001 < amber < 0.6
    step.bar.trace_chosen.emit(None)
    wait_for_tiles(bench, qtbot)
    assert np.array_equal(grabbed(step.panes["A"]), before)


def test_readings_come_and_rank_the_trials(bench: MainWindow, qtbot: QtBot) -> None:
    step, entry = bench.trial_step, bench.tray.entries[0]
    step.show_view("sheet")
    # Readings take only the time that nothing else wants.
    qtbot.waitUntil(lambda: not step.readings.missing(entry), timeout=6 * WAIT_MS)
    halos = next(s for s in step.readings.standings(entry, over_picture=True) if s.reading.key == "ringing")
    assert set(halos.values) == {"A", "B", "C", "D"}
    assert halos.values["B"] < halos.values["C"]  # Mitchell rings less than Lanczos: Mitchell and Netravali 1988
    width = next(s for s in step.readings.standings(entry, over_picture=False) if s.reading.key == "softness")
    assert width.values["B"] > width.values["D"]
    cells = step.panel.readings.findChildren(QLabel)
    assert sum(cell.isVisible() for cell in cells) > 40
    step.refresh()
    assert step.panel.readings.findChildren(QLabel) == cells  # words change, labels stay


def test_spots_are_added_renamed_and_removed(bench: MainWindow, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    step, entry = bench.trial_step, bench.tray.entries[0]
    count = len(entry.spots)
    step.viewport.move_to(0.3, 0.7)
    step.bar.spot_button.click()
    assert (entry.spots[-1].name, entry.spots[-1].x, entry.spots[-1].y) == ("Own spot", 0.3, 0.7)
    step.show_view("sheet")
    monkeypatch.setattr(QInputDialog, "getText", lambda *_: ("Left ear", True))
    step.sheet._rename(entry.spots[-1])
    assert entry.spots[-1].name == "Left ear"
    step.sheet._remove(entry.spots[0])
    assert len(entry.spots) == count
    assert ("Left ear", "D") in step.sheet.cells


def test_the_known_answer_is_found_and_saved(bench: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    entry = bench.tray.entries[0]
    bench.tray.set_size(0, entry.size.with_factor(2))
    test = bench.open_test(0)
    test.noise.setValue(0)
    test.run_button.click()
    qtbot.waitUntil(lambda: bool(test.answers), timeout=WAIT_MS)
    assert test.table.rowCount() == 4
    assert test.table.item(0, 0).text() == "D  Vellum"
    qtbot.waitUntil(lambda: not test.looks[0].pixmap().isNull(), timeout=WAIT_MS)
    assert test.crop_text[0].text() == "D  Vellum, 100 %"
    shown = test.looks[0].pixmap().toImage()
    test.table.selectRow(1)
    assert test.crop_text[0].text() == "D  Vellum, 100 %"  # as long as that is what is seen
    qtbot.waitUntil(lambda: test.looks[0].pixmap().toImage() != shown, timeout=WAIT_MS)
    assert test.crop_text[0].text() == f"{test.answers[1].label}, 100 %"
    test.table.selectRow(3)
    last = test.answers[-1].label
    qtbot.waitUntil(lambda: test.crop_text[0].text().startswith(last), timeout=WAIT_MS)
    test.save_to(tmp_path / "answers.json")
    assert json.loads((tmp_path / "answers.json").read_text())[0]["upscaler"] == "vellum"
    test.save_to(tmp_path / "missing" / "answers.csv")
    assert "cannot be written" in test.text.text()
    test.close()


def test_a_blind_choice_hides_everything_until_it_is_made(bench: MainWindow, qtbot: QtBot) -> None:
    step, entry = bench.trial_step, bench.tray.entries[0]
    step.bar.hide_button.click()
    shown = [head._name_text for head in step.heads.values()]
    assert shown == ["name hidden"] * 4
    assert sorted(head._mark for head in step.heads.values()) == ["1", "2", "3", "4"]
    assert not step.panel.readings.isVisible()
    assert not step.panel.values.isVisible()
    words = " ".join(w.toolTip() + w.accessibleName() for w in step.findChildren(QWidget) if w.isVisible())
    words += " ".join(w.text() for w in step.panel.findChildren(QLabel) if w.isVisible())
    assert not any(name in words for name in ("Vellum", "Lanczos", "Mitchell", "Bicubic", "Burin", "Mender"))
    step.panel.stamp.click()
    stamped = entry.trials.find(entry.trials.stamped or "")
    assert bench.notices.text.startswith(f"You chose {stamped.letter}, {stamped.upscaler.name}.")
    assert bench.project.blind_choices == {stamped.upscaler_key: 1}
    assert not step.bar.hide_button.isChecked()
    assert step.heads["A"]._name_text == "Bicubic"


def test_trials_are_duplicated_and_moved(bench: MainWindow) -> None:
    step, entry = bench.trial_step, bench.tray.entries[0]
    step.panel.duplicate.click()
    assert [t.upscaler_key for t in entry.trials.remaining] == [
        "bicubic",
        "mitchell",
        "lanczos",
        "vellum",
        "vellum",
    ]
    step.panel.left.click()
    assert [t.letter for t in entry.trials.remaining] == ["A", "B", "C", "E", "D"]
    assert list(step.panes) == ["A", "B", "C", "E", "D"]
    step.panel.right.click()
    step.panel.right.click()
    assert [t.letter for t in entry.trials.remaining] == ["A", "B", "C", "D", "E"]


@pytest.mark.parametrize("kind", ["pdf", "png", "html", "strip-10x15", "strip-a4"])
def test_sheet_and_strip_are_taken_away(kind: str, bench: MainWindow, qtbot: QtBot, tmp_path: Path) -> None:
    target = tmp_path / "taken"
    bench.trial_step.sheet.spots_chosen.emit(bench.tray.entries[0].spots[:2])  # two are enough
    bench.take_away.write(bench.tray.entries[0], kind, target)
    qtbot.waitUntil(lambda: not bench.take_away.busy, timeout=WAIT_MS)
    assert bench.notices.text == f"Written: {target}"
    data = target.read_bytes()
    assert data.startswith({"png": b"\x89PNG", "html": b"<!doctype"}.get(kind, b"%PDF"))
    assert not list(tmp_path.glob(".*partial"))
    if kind == "html":
        assert data.count(b"data:image/png") == 4 * len(bench.tray.entries[0].spots)
        assert b"http" not in data


def test_favourites_are_what_new_pictures_begin_with(bench: MainWindow, take_in: TakeIn, photo_file: Path) -> None:
    bench.trial_step.heads["B"].strike_asked.emit()
    bench.trial_step.bar.favourites_asked.emit(False)
    other = photo_file.with_name("other.png")
    other.write_bytes(photo_file.read_bytes())
    take_in([other])
    assert [t.upscaler_key for t in bench.tray.entries[1].trials.rows] == ["bicubic", "lanczos", "vellum"]
    assert [t.letter for t in bench.tray.entries[1].trials.rows] == ["A", "B", "C"]


def test_print_size_is_that_of_the_screen(bench: MainWindow) -> None:
    step = bench.trial_step
    step.bar.zoom_buttons.button_for("print").click()
    inches = 300 * step.panes["A"].scale / step.screen().physicalDotsPerInch()
    assert inches == pytest.approx(step.devicePixelRatioF(), rel=0.01)  # 300 result pixels are an inch


@pytest.mark.slow
def test_the_whole_choice_on_a_demo_picture(window: MainWindow, take_in: TakeIn, qtbot: QtBot, tmp_path: Path) -> None:
    """Open, strike three of five, blink the last two, trace, stamp, export; all views equal the file."""
    source = next(p for p in demo_pictures() if p.name.startswith("carved"))
    take_in([Path(shutil.copy(source, tmp_path))])
    step, entry = window.trial_step, window.tray.entries[0]
    qtbot.waitUntil(lambda: len(entry.spots) >= 5, timeout=WAIT_MS)
    window.open_step(TRIAL)
    step.show_view("sheet")
    step.bar.trial_asked.emit("contour")
    assert len(step.sheet.heads) == 5
    for letter in ("A", "B", "C"):
        step.sheet.heads[letter].strike_asked.emit()
    step.show_view("blink")
    assert {str(c.currentData()) for c in (step.pair.first, step.pair.second)} == {"D", "E"}
    step.bar.trace_chosen.emit("ringing")
    wait_for_tiles(window, qtbot)
    step.bar.trace_chosen.emit(None)
    whole = deliver(window, qtbot, "D")
    assert whole.shape == (1000, 800, 3)
    step.show_view("linked")
    wait_for_tiles(window, qtbot)
    part, rows, columns = in_file(step.panes["D"], whole)
    assert_same(grabbed(step.panes["D"])[rows, columns], part)
    step.show_view("sheet")
    wait_for_tiles(window, qtbot)
    cell = step.sheet.cells[entry.spots[0].name, "D"]
    part, rows, columns = in_file(cell, whole)
    assert_same(grabbed(cell)[rows, columns], part)
    step.show_view("curtain")
    step.pair.first.setCurrentIndex(step.pair.first.findData("D"))
    step.pair.second.setCurrentIndex(step.pair.second.findData("source"))
    step.pair.first.activated.emit(0)
    step.pair.curtain.draw_to(1.0)
    wait_for_tiles(window, qtbot)
    part, rows, columns = in_file(step.pair.curtain, whole)
    assert_same(grabbed(step.pair.curtain)[rows, columns][:, :-6], part[:, :-6])


def test_a_blind_choice_by_pairs(bench: MainWindow) -> None:
    step, entry = bench.trial_step, bench.tray.entries[0]
    step.bar.hide_button.click()
    step.panel.lineage.click()
    order = step.blind.order
    for _ in range(3):
        assert len(step.panes) == 2
        step.panel.right_better.click()
    assert entry.trials.stamped == order[-1]  # the right one won every time
    assert "You chose" in bench.notices.text
    assert len(entry.trials.struck) == 3
    assert not step.panel.left_better.isVisible()


def test_a_dragged_row_moves_its_spot(bench: MainWindow, qtbot: QtBot) -> None:
    step, entry = bench.trial_step, bench.tray.entries[0]
    step.show_view("sheet")
    before = entry.spots[0]
    cell = step.sheet.cells[before.name, "A"]
    middle = cell.rect().center()
    qtbot.mousePress(cell, Qt.MouseButton.LeftButton, pos=middle)
    qtbot.mouseMove(cell, middle + QPointF(30, 12).toPoint())
    qtbot.mouseRelease(cell, Qt.MouseButton.LeftButton, pos=middle)
    assert entry.spots[0].x == pytest.approx(before.x - 30 / 300)
    assert entry.spots[0].y == pytest.approx(before.y - 12 / 240)
    assert step.sheet.cells[before.name, "A"] is cell


def test_nothing_tells_the_names_during_a_blind_choice(bench: MainWindow) -> None:
    step, entry = bench.trial_step, bench.tray.entries[0]
    step.heads["B"].strike_asked.emit()
    step.bar.hide_button.click()
    for tells in (step.panel.duplicate, step.panel.left, step.bar.test_button, step.bar.take_button):
        assert not tells.isVisible()
    assert sorted(head._mark for head in step.heads.values()) == ["1", "2", "3"]
    bench.tray.set_trials(0, entry.trials.put_back("B"))
    assert step.heads["B"]._mark == "4"
    step.bar.hide_button.click()
    assert step.panel.duplicate.isVisible()
    assert step.heads["A"]._name_text == "Bicubic"


def test_where_trials_differ_becomes_spots_and_a_trace(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, photo_file: Path
) -> None:
    take_in([photo_file])
    window.open_step(TRIAL)
    entry = window.tray.entries[0]
    qtbot.waitUntil(lambda: entry.suggested is not None, timeout=WAIT_MS)
    window.trial_step.panel.differ.click()
    qtbot.waitUntil(lambda: any(spot.kind == "differ" for spot in entry.spots), timeout=WAIT_MS)
    window.trial_step.bar.trace_chosen.emit("disagreement")
    assert "disagreement" in window.trial_step.bar.trace_button.text()
    wait_for_tiles(window, qtbot)
    window.undo()
    assert not any(spot.kind == "differ" for spot in entry.spots)
