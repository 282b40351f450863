"""The threads by themselves: order, cancelling, pausing."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from pytestqt.qtbot import QtBot

from wamplex.app.workers import tiles as tiles_module
from wamplex.app.workers.delivery import DeliveryThread, Order
from wamplex.app.workers.loader import PictureStore
from wamplex.app.workers.tiles import TileKey, TileRenderer
from wamplex.core.errors import UnreadablePictureError
from wamplex.core.recipe import Delivery, Recipe

WAIT_MS = 30_000


@pytest.fixture
def renderer(qtbot: QtBot) -> Iterator[TileRenderer]:
    made = TileRenderer(PictureStore())
    made.start()
    yield made
    made.end()


def keys(path: Path, upscaler: str, count: int) -> list[TileKey]:
    recipe = Recipe(upscaler=upscaler, factor=8.0)
    return [TileKey(path, recipe, 1, i % 2, i // 2) for i in range(count)]


def test_tiles_arrive_in_the_order_asked_for(renderer: TileRenderer, qtbot: QtBot, photo_file: Path) -> None:
    wanted, made = keys(photo_file, "nearest", 4), []
    renderer.made.connect(lambda key, pixels: made.append((key, pixels.shape)))
    with qtbot.waitSignal(renderer.idle, timeout=WAIT_MS):
        renderer.want(wanted)
        qtbot.waitUntil(lambda: len(made) == 4, timeout=WAIT_MS)
    assert [key for key, _ in made] == wanted
    assert made[0][1] == (512, 512, 3)


def test_a_newer_list_replaces_the_older(
    renderer: TileRenderer, qtbot: QtBot, photo_file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    begun, real = threading.Event(), tiles_module.preview

    def slow(picture, recipe, window, reduce, progress):  # type: ignore[no-untyped-def]
        begun.set()
        while recipe.upscaler == "bilinear":
            progress.check()
        return real(picture, recipe, window, reduce, progress)

    monkeypatch.setattr(tiles_module, "preview", slow)
    made: list[TileKey] = []
    renderer.made.connect(lambda key, _pixels: made.append(key))
    renderer.want(keys(photo_file, "bilinear", 3))
    qtbot.waitUntil(begun.is_set, timeout=WAIT_MS)
    renderer.want(keys(photo_file, "nearest", 1))
    qtbot.waitUntil(lambda: len(made) == 1, timeout=WAIT_MS)
    assert made[0].recipe.upscaler == "nearest"


def test_unreadable_pictures_are_told_once(renderer: TileRenderer, qtbot: QtBot, tmp_path: Path) -> None:
    told: list[str] = []
    renderer.failed.connect(lambda _path, sentence: told.append(sentence))
    with qtbot.waitSignal(renderer.failed, timeout=WAIT_MS):
        renderer.want(keys(tmp_path / "gone.png", "nearest", 4))
    qtbot.wait(100)
    assert len(told) == 1
    assert "There is no file gone.png" in told[0]


def test_the_store_keeps_the_last_pictures(tmp_path: Path) -> None:
    paths = []
    for i in range(3):
        paths.append(tmp_path / f"{i}.png")
        Image.new("L", (5 + i, 5)).save(paths[-1])
    store = PictureStore()
    first = store.get(paths[0])
    assert store.get(paths[0]) is first
    store.get(paths[1])
    store.get(paths[2])
    assert store.get(paths[0]) is not first
    with pytest.raises(UnreadablePictureError):
        store.get(tmp_path / "none.png")


def test_paused_deliveries_wait_and_go_on(qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "a.png"
    Image.fromarray(np.zeros((40, 40, 3), np.uint8)).save(path)
    thread = DeliveryThread()
    thread.start()
    done: list[int] = []
    thread.delivered.connect(lambda number, _done: done.append(number))
    try:
        thread.pause(True)
        thread.put(Order(0, path, Recipe(upscaler="bicubic", delivery=Delivery(format="png"))))
        qtbot.wait(300)
        assert done == []
        thread.pause(False)
        qtbot.waitUntil(lambda: done == [0], timeout=WAIT_MS)
    finally:
        thread.end()


def test_waiting_orders_can_be_taken_back(qtbot: QtBot, photo_file: Path) -> None:
    thread = DeliveryThread()
    cancelled: list[int] = []
    thread.cancelled.connect(cancelled.append)
    thread.put(Order(7, photo_file, Recipe()))
    thread.cancel(7)
    assert cancelled == [7]
    thread.start()
    qtbot.wait(100)
    thread.end()
    assert [p.name for p in photo_file.parent.iterdir()] == ["photo.png"]
