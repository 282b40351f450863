"""Many files ordered at once: none is lost, and none is made that is not wanted."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS

from wamplex.app.deliver import ordering
from wamplex.app.shared import batches
from wamplex.app.window.main_window import MainWindow

TakeIn = Callable[[list[Path]], None]
COUNT = 30


@pytest.fixture
def many(window: MainWindow, take_in: TakeIn, tmp_path: Path) -> MainWindow:
    """The window with pictures in it, and deliveries held."""
    for number in range(COUNT):
        Image.fromarray(np.full((24, 32, 3), number, np.uint8)).save(tmp_path / f"p{number:02}.png")
    take_in([tmp_path])
    window.deliver_step.pause_asked.emit(True)
    return window


def test_all_come_into_the_list_in_their_order(many: MainWindow, qtbot: QtBot) -> None:
    many.deliver_step.deliver_all()
    assert many.deliver_step.ordering.pending == COUNT
    qtbot.waitUntil(lambda: len(many.jobs.rows) == COUNT, timeout=WAIT_MS)
    assert many.deliver_step.ordering.pending == 0
    assert [row.name.stem for row in many.jobs.rows] == [f"p{n:02}-4x" for n in range(COUNT)]


def test_closing_asks_about_those_that_are_not_in_the_list_yet(
    many: MainWindow, monkeypatch: pytest.MonkeyPatch
) -> None:
    asked: list[int] = []
    monkeypatch.setattr(many, "confirm_close", lambda: asked.append(1))
    many.deliver_step.deliver_all()
    assert not many.close()
    assert asked


@pytest.mark.parametrize("written", [False, True], ids=["while planned", "once written"])
def test_what_the_user_closes_on_is_not_made_at_the_next_start(
    many: MainWindow, monkeypatch: pytest.MonkeyPatch, written: bool
) -> None:
    many.deliver_step.deliver_all()
    if written:
        many.deliver_step.ordering._batches.finish()
    left: list[int] = []
    closing = many.jobs.journal.close
    monkeypatch.setattr(many.jobs.journal, "close", lambda: (left.append(len(many.jobs.journal.jobs())), closing()))
    many.end(asked=True)
    assert left == [0]


def test_of_what_is_half_listed_when_the_user_closes_nothing_is_made(
    many: MainWindow, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    monkeypatch.setattr(ordering, "_FEW_LISTED", 8)
    monkeypatch.setattr(batches, "_PORTION_S", 0.0)  # one at a time
    with qtbot.waitSignal(many.jobs.added, timeout=WAIT_MS):
        many.deliver_step.deliver_all()
    assert many.deliver_step.ordering.pending == COUNT - 8
    left: list[int] = []
    closing = many.jobs.journal.close
    monkeypatch.setattr(many.jobs.journal, "close", lambda: (left.append(len(many.jobs.journal.jobs())), closing()))
    many.end(asked=True)
    assert left == [0]


def test_what_is_ended_unasked_is_made_at_the_next_start(many: MainWindow, monkeypatch: pytest.MonkeyPatch) -> None:
    many.deliver_step.deliver_all()
    left: list[int] = []
    closing = many.jobs.journal.close
    monkeypatch.setattr(many.jobs.journal, "close", lambda: (left.append(len(many.jobs.journal.jobs())), closing()))
    many.end(asked=False)
    assert left == [COUNT]
