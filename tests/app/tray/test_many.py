"""Many pictures: large thumbnails and cut-outs are kept for those that are worked on."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

import pytest
from PIL import Image
from PySide6.QtCore import QObject, QPoint
from PySide6.QtWidgets import QListView
from pytestqt.qtbot import QtBot
from tests.app.making import MeasuredHere
from tests.app.watching import WAIT_MS, assert_stays

from wamplex.app.shared import batches as portions_module
from wamplex.app.shared.batches import BatchedUpdates
from wamplex.app.tray import thumbnails as thumbnails_module
from wamplex.app.window.main_window import MainWindow
from wamplex.app.workers.files import loader as loader_module
from wamplex.app.workers.files.loader import Loader
from wamplex.core.intake.compressed_thumbnail import CompressedThumbnail

TakeIn = Callable[[list[Path]], None]


def test_a_picture_that_was_set_by_is_sharp_again_when_it_is_selected(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(thumbnails_module, "_MOST_LARGE", 2)
    monkeypatch.setattr(loader_module, "_LARGE_AT_ONCE", 3)
    paths = [tmp_path / f"{letter}.jpg" for letter in "abcde"]
    for path in paths:
        Image.effect_noise((480, 320), 40).convert("RGB").save(path)
    take_in(paths)
    qtbot.waitUntil(lambda: all(e.suggested for e in window.tray.entries), timeout=WAIT_MS)
    tray = window.tray
    large = [max(entry.thumbnail.shape) > 256 for entry in tray.entries if entry.thumbnail is not None]
    assert sum(large) <= 3
    assert not large[4]
    small = tray.entry(4)
    assert isinstance(small.info.thumbnail, CompressedThumbnail)
    assert small.thumbnail is small.framed_thumbnail
    assert len(small.info.thumbnail.data) < small.thumbnail.nbytes
    assert not tray.entry(4).info.evidence_crops
    tray.select(4)
    last = tray.entry(4)
    qtbot.waitUntil(lambda: not tray.thumbnails.is_small(last) and bool(last.info.evidence_crops), timeout=WAIT_MS)
    assert last.framed_thumbnail is last.thumbnail
    assert set(last.info.evidence_crops) <= set(window.assess_step.cards)


def test_many_at_once_are_looked_at_beside_the_window(
    qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(loader_module, "_LARGE_AT_ONCE", 1)
    paths = [tmp_path / f"{number}.png" for number in range(20)]
    for path in paths[:-1]:
        Image.new("RGB", (80, 60)).save(path)
    paths[-1].write_bytes(b"no picture")
    measurer, elsewhere = MeasuredHere(), list[Path]()
    small = measurer.small
    monkeypatch.setattr(measurer, "small", lambda path, p: (elsewhere.append(path), small(path, p))[1])
    parent = QObject()
    loader = Loader(measurer, parent)
    looked, failed = list[Path](), list[Path]()
    loader.looked.connect(lambda found, *_: looked.append(found.path))
    loader.failed.connect(lambda path, _words: failed.append(path))
    for path in paths:
        loader.look(path)
    qtbot.waitUntil(lambda: len(looked) + len(failed) == 20, timeout=WAIT_MS)
    assert (set(looked), failed) == (set(paths[:-1]), paths[-1:])
    assert 12 <= len(elsewhere) < 20
    elsewhere.clear()
    loader.look(paths[3])  # a few are there sooner without waiting for that process
    qtbot.waitUntil(lambda: looked[-1] == paths[3], timeout=WAIT_MS)
    assert not elsewhere
    loader.finish()


def test_much_that_comes_is_handed_on_in_portions_and_in_order(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(portions_module, "_PORTION_S", 0.0)  # one at a time
    came: list[int] = []
    parent = QObject()
    portions = BatchedUpdates(parent)
    for number in range(5):
        portions.put(partial(came.append, number))
    assert came == [0]
    qtbot.waitUntil(lambda: len(came) == 5, timeout=WAIT_MS)
    assert came == [0, 1, 2, 3, 4]
    monkeypatch.setattr(portions_module, "_PORTION_S", 1.0)
    qtbot.waitUntil(lambda: portions.resting, timeout=WAIT_MS)
    portions.put(partial(came.append, 5))
    assert came[-1] == 5  # what comes alone waits for nothing


def test_many_that_come_are_laid_out_in_portions_and_take_nothing_from_view(
    window: MainWindow, take_in: TakeIn, qtbot: QtBot, tmp_path: Path
) -> None:
    paths = [tmp_path / f"{number:03}.png" for number in range(130)]
    for path in paths:
        Image.new("RGB", (80, 60)).save(path)
    window.take_in(paths[:120])
    assert 40 < len(window.tray.entries) < 120  # the others follow, between events
    qtbot.waitUntil(lambda: len(window.tray.entries) == 120, timeout=WAIT_MS)
    assert [entry.path for entry in window.tray.entries] == paths[:120]
    rows = window.tray_view.list
    bar, last = rows.verticalScrollBar(), rows.model().index(119, 0)
    qtbot.waitUntil(lambda: rows.visualRect(last).isValid(), timeout=WAIT_MS)
    qtbot.waitUntil(lambda: rows.layoutMode() == QListView.LayoutMode.SinglePass, timeout=WAIT_MS)
    bar.setValue(bar.maximum())
    seen = rows.indexAt(QPoint(20, 60)).row()
    assert seen > 100
    window.take_in(paths[120:])
    assert_stays(qtbot, lambda: rows.indexAt(QPoint(20, 60)).row() == seen, 100)


def test_rows_that_keep_their_height_are_not_laid_out_anew(
    window: MainWindow, take_in: TakeIn, photo_file: Path, qtbot: QtBot
) -> None:
    take_in([photo_file])
    rows, entry = window.tray_view.list, window.tray.entries[0]
    place = rows.model().index(0, 0)
    before = rows.visualRect(place)
    window.tray.announce(entry, "thumbnail")
    assert rows.visualRect(place) == before
    window.tray.file_facts.unusable(entry.path, "This file is damaged, for reasons that take three lines.")
    assert rows.visualRect(place).height() != before.height()
