"""Which file is meant, and pictures at hand."""

from __future__ import annotations

import hashlib
import os
import threading
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from wamplex.core.base.errors import Cancelled, SourceChangedError, UnreadablePictureError
from wamplex.core.base.progress import Progress
from wamplex.core.intake import picture_cache as store_module
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.intake.read import read_picture
from wamplex.core.model.opened_source import OpenedSource
from wamplex.core.model.source import Source


def written(path: Path, width: int, height: int = 5, level: int = 0) -> Source:
    Image.new("L", (width, height), level).save(path)
    return Source.of(path)


def test_a_file_that_was_written_to_is_another(tmp_path: Path) -> None:
    source = written(tmp_path / "a.png", 5)
    source.check()
    assert Source.of(tmp_path / "a.png") == source
    os.utime(tmp_path / "a.png", ns=(1, 1))
    with pytest.raises(SourceChangedError, match=r"a\.png has changed on the disk"):
        source.check()
    with pytest.raises(SourceChangedError):
        _ = source.digest


def test_the_digest_is_that_of_the_bytes(tmp_path: Path) -> None:
    source = written(tmp_path / "a.png", 5)
    assert source.digest == hashlib.sha256((tmp_path / "a.png").read_bytes()).hexdigest()


def test_a_picture_tells_the_file_it_was_read_from(tmp_path: Path) -> None:
    source = written(tmp_path / "a.png", 5)
    assert read_picture(source.path).source == source


def test_the_store_never_gives_another_file_under_the_same_name(tmp_path: Path) -> None:
    path = tmp_path / "a.png"
    store, before = PictureCache(), written(path, 5)
    assert store.get(before).width == 5
    after = written(path, 9)
    assert store.get(after).width == 9
    assert store.get(before).width == 5  # what was judged is still at hand
    with pytest.raises(SourceChangedError):
        PictureCache().get(before)


def test_the_store_keeps_the_last_pictures_up_to_its_budget(tmp_path: Path) -> None:
    sources = [written(tmp_path / f"{i}.png", 5, 5 + i) for i in range(3)]
    store = PictureCache(budget=2 * 4 * 5 * 6)
    first = store.get(sources[0])
    assert store.get(sources[0]) is first
    store.get(sources[1])
    store.get(sources[2])
    assert store.cached_bytes <= 2 * 4 * 5 * 6
    assert store.get(sources[0]) is not first
    with pytest.raises(UnreadablePictureError):
        store.get(Source(tmp_path / "none.png", 1, 1))


def test_a_picture_beyond_the_budget_is_kept_while_it_is_the_last(tmp_path: Path) -> None:
    store, source = PictureCache(budget=1), written(tmp_path / "a.png", 50)
    assert store.get(source) is store.get(source)


def test_a_picture_asked_for_twice_is_decoded_once(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    source = written(tmp_path / "a.png", 5)
    begun, go_on, decoded = threading.Event(), threading.Event(), []

    def slow(path: OpenedSource, progress: Progress) -> object:
        decoded.append(path.source.path)
        begun.set()
        assert go_on.wait(30)
        return read_picture(path)

    monkeypatch.setattr(store_module, "read_picture", slow)
    store, got = PictureCache(), []
    threads = [threading.Thread(target=lambda: got.append(store.get(source))) for _ in range(2)]
    threads[0].start()
    assert begun.wait(30)
    threads[1].start()
    other = written(tmp_path / "b.png", 7)
    go_on.set()
    assert store.get(other).width == 7  # nobody waits for another picture's decoding
    for thread in threads:
        thread.join(30)
    assert len(got) == 2
    assert decoded.count(source.path) == 1


def test_decoding_can_be_cancelled(tmp_path: Path) -> None:
    noise = np.random.default_rng(1).integers(0, 255, (3000, 3000, 3), np.uint8)
    Image.fromarray(noise).save(tmp_path / "a.png", compress_level=1)
    progress = Progress()
    threading.Timer(0.02, progress.cancel).start()
    with pytest.raises(Cancelled):
        PictureCache().get(Source.of(tmp_path / "a.png"), progress)
