"""Choosing several pictures, taking them out, moving them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from pytestqt.qtbot import QtBot

from wamplex.app.tray.pictures import reorder
from wamplex.app.window.main_window import MainWindow

TakeIn = Callable[[list[Path]], None]
CTRL, SHIFT, LEFT = (
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.MouseButton.LeftButton,
)


@pytest.fixture
def four(window: MainWindow, take_in: TakeIn, photo_file: Path) -> MainWindow:
    paths = [photo_file.with_name(f"{letter}.png") for letter in "abcd"]
    for path in paths:
        Image.open(photo_file).save(path)
    take_in(paths)
    return window


def names(window: MainWindow) -> str:
    return "".join(entry.path.stem for entry in window.tray.entries)


def place_of(window: MainWindow, row: int) -> QPoint:
    shown = window.tray_view.list
    index = shown.model().index(row, 0)
    shown.scrollTo(index)
    return shown.visualRect(index).center()


def click(window: MainWindow, qtbot: QtBot, row: int, keys: Qt.KeyboardModifier) -> None:
    qtbot.mouseClick(window.tray_view.list.viewport(), LEFT, keys, place_of(window, row))


@pytest.mark.parametrize(
    ("numbers", "before", "order"),
    [
        ((3,), 0, (3, 0, 1, 2)),
        ((0, 1), None, (2, 3, 0, 1)),
        ((1, 2), 2, (0, 1, 2, 3)),
        ((0, 2), 3, (1, 0, 2, 3)),
    ],
)
def test_moved_together_before_another(numbers: tuple[int, ...], before: int | None, order: tuple[int, ...]) -> None:
    assert reorder((0, 1, 2, 3), numbers, before) == order


def test_several_are_chosen_with_ctrl_and_shift(four: MainWindow, qtbot: QtBot) -> None:
    click(four, qtbot, 1, Qt.KeyboardModifier.NoModifier)
    click(four, qtbot, 3, CTRL)
    assert [entry.path.stem for entry in four.tray.chosen] == ["b", "d"]
    click(four, qtbot, 1, Qt.KeyboardModifier.NoModifier)
    click(four, qtbot, 3, SHIFT)
    assert [entry.path.stem for entry in four.tray.chosen] == ["b", "c", "d"]
    assert four.tray.current is four.tray.entry(3)


def test_pictures_taken_out_come_back_with_their_decisions(four: MainWindow, qtbot: QtBot) -> None:
    four.tray.set_size(1, four.tray.entry(1).size.with_factor(2))
    click(four, qtbot, 1, Qt.KeyboardModifier.NoModifier)
    click(four, qtbot, 0, CTRL)
    qtbot.keyClick(four.tray_view.list, Qt.Key.Key_Delete)
    assert names(four) == "cd"
    assert four.tray.current is four.tray.entry(2)
    assert four.tray.entry(0).path.exists()
    four.take_in([four.tray.entry(3).path.with_name("photo.png")])
    four.undo()
    assert names(four) == "abcdphoto"
    assert four.tray.entry(1).decisions.factor == 2
    four.redo()
    assert names(four) == "cdphoto"


def test_an_empty_tray_shows_nothing_of_what_was_in_it(four: MainWindow, qtbot: QtBot) -> None:
    four.tray_view.list.selectAll()
    qtbot.keyClick(four.tray_view.list, Qt.Key.Key_Delete)
    assert four.tray.entries == []
    assert four.tray.current is None
    for step in range(5):
        four.open_step(step)
    assert not four.deliver_step.all_button.isEnabled()
    assert "Add pictures" in four.deliver_step.panel.format_text
    four.undo()
    assert names(four) == "abcd"


def test_dragged_pictures_stay_where_they_fall_also_in_the_project(four: MainWindow, tmp_path: Path) -> None:
    place = place_of(four, 0)
    before = four.tray_view.list.number_at(QPoint(place.x(), place.y() - 8))
    assert before == 0
    four.tray.move([2, 3], before)
    assert names(four) == "cdab"
    four.project_controller.save_to(tmp_path / "order.wamplex")
    other = MainWindow()
    other.project_controller.open(tmp_path / "order.wamplex")
    assert names(other) == "cdab"
    other.confirm_close = lambda: True  # type: ignore[method-assign]
    other.close()


def test_keys_step_through_the_pictures(four: MainWindow) -> None:
    four.tray.select(0)
    for by, stem in ((1, "b"), (1, "c"), (-1, "b"), (-1, "a"), (-1, "a")):
        four.tray.step(by)
        assert four.tray.current is not None
        assert four.tray.current.path.stem == stem


def test_the_menu_says_how_many_are_taken_out(four: MainWindow, qtbot: QtBot) -> None:
    click(four, qtbot, 0, Qt.KeyboardModifier.NoModifier)
    click(four, qtbot, 2, CTRL)
    menu = four.tray_view.list.menu_at(place_of(four, 0))
    entry = next(action for action in menu.actions() if action.text() == "Remove 2 from the tray")
    entry.trigger()
    assert names(four) == "bd"
