"""Decisions taken over from one picture to others, in the window."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PIL import Image
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS

from wamplex.app.recipes.recipe_dialog import RecipeDialog
from wamplex.app.window.main_window import MainWindow
from wamplex.core.model.finish_values import Finish, Grain
from wamplex.core.model.upscale_values import Values

TakeIn = Callable[[list[Path]], None]


@pytest.fixture
def three(
    window: MainWindow,
    take_in: TakeIn,
    qtbot: QtBot,
    photo_file: Path,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> MainWindow:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    paths = [photo_file.with_name(f"{letter}.png") for letter in "abc"]
    for path in paths:
        Image.open(photo_file).save(path)
    take_in(paths)
    qtbot.waitUntil(lambda: all(e.suggested for e in window.tray.entries), timeout=WAIT_MS)
    tray = window.tray
    tray.set_size(0, tray.entry(0).size.with_factor(2))
    tray.set_trials(0, tray.entry(0).trials.set_values("D", Values(keep_source=35)).stamp("D"))
    tray.set_finish(0, Finish(grain=Grain(amount=6)), "grain")
    return window


def opened(window: MainWindow, target: str) -> RecipeDialog:
    dialog = window.open_recipes()
    words = [dialog.targets.itemText(index) for index in range(dialog.targets.count())]
    dialog.targets.setCurrentIndex(next(i for i, text in enumerate(words) if target in text))
    return dialog


def test_all_that_is_ticked_is_decided_for_the_chosen_in_one_step(three: MainWindow) -> None:
    three.tray.choose([0, 2])
    dialog = opened(three, "2 chosen")
    dialog.as_in_recipe.setChecked(True)
    dialog.use()
    before, after = three.tray.entry(1), three.tray.entry(2)
    assert after.delivered_recipe() == three.tray.entry(0).delivered_recipe()
    assert before.decisions.factor == 4
    assert "2 pictures" in dialog.text
    three.undo()
    assert after.decisions.factor == 4
    assert after.finish == Finish()


def test_values_can_be_each_pictures_own(three: MainWindow) -> None:
    dialog = opened(three, "all 3")
    dialog.remeasured.setChecked(True)
    dialog.use()
    trials = three.tray.entry(1).trials
    assert trials.stamped is not None
    assert trials.find(trials.stamped).values is None


def test_what_is_not_ticked_stays(three: MainWindow) -> None:
    dialog = opened(three, "all 3")
    dialog.ticks["size"].setChecked(False)
    dialog.ticks["trial"].setChecked(False)
    dialog.use()
    other = three.tray.entry(1)
    assert other.decisions.factor == 4
    assert other.trials.stamped is None
    assert other.finish.grain == Grain(amount=6)


def test_a_kept_recipe_is_there_for_other_pictures(three: MainWindow) -> None:
    dialog = opened(three, "all 3")
    dialog.name.setText("Foyer")
    dialog.keep()
    dialog.close()
    three.tray.select(1)
    again = opened(three, "b.png alone")
    again.list.setCurrentRow(1)
    assert again.ticks["finish"].text() == "Finish: grain 6"
    again.use()
    assert three.tray.entry(1).decisions.factor == 2
    assert three.tray.entry(2).decisions.factor == 4


def test_a_picture_without_a_recipe_says_so(three: MainWindow, photo_file: Path) -> None:
    dialog = opened(three, "all 3")
    dialog.read_file(photo_file)
    assert "holds no recipe" in dialog.text
