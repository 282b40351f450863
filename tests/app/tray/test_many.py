"""Many pictures: large thumbnails and cut-outs are kept for those that are worked on."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PIL import Image
from pytestqt.qtbot import QtBot
from watching import WAIT_MS

from wamplex.app.tray import thumbnails as thumbnails_module
from wamplex.app.window.main_window import MainWindow
from wamplex.app.workers import loader as loader_module

TakeIn = Callable[[list[Path]], None]


def test_a_picture_that_was_set_by_is_sharp_again_when_it_is_selected(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(thumbnails_module, "_MOST_LARGE", 2)
    monkeypatch.setattr(loader_module, "_LARGE_AT_ONCE", 3)
    paths = [tmp_path / f"{letter}.jpg" for letter in "abcde"]
    for path in paths:
        Image.effect_noise((1200, 800), 40).convert("RGB").save(path)
    take_in(paths)
    qtbot.waitUntil(lambda: all(e.suggested for e in window.tray.entries), timeout=WAIT_MS)
    tray = window.tray
    large = [max(entry.thumbnail.shape) > 256 for entry in tray.entries if entry.thumbnail is not None]
    assert sum(large) <= 3
    assert not large[4]
    assert not tray.entry(4).facts.cutouts
    tray.select(4)
    last = tray.entry(4)
    qtbot.waitUntil(lambda: not tray.thumbnails.is_small(last) and bool(last.facts.cutouts), timeout=WAIT_MS)
    assert last.framed_thumbnail is last.thumbnail
    assert set(last.facts.cutouts) <= set(window.assess_step.cards)
