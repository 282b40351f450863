"""Small pictures in the desktop's own store (freedesktop.org, Thumbnail Managing Standard 0.9.0)."""

from __future__ import annotations

import hashlib
import os
import stat
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from wamplex.core.intake.read import read_tray_thumbnail
from wamplex.core.intake.thumbnail_cache import load_thumbnail, save_thumbnail, shrink_thumbnail
from wamplex.core.model.source import Source


@pytest.fixture
def cache(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    return tmp_path / "cache" / "thumbnails" / "large"


def test_the_name_is_that_of_the_standards_own_example(cache: Path) -> None:
    # Section "Thumbnail Generation": file:///home/jens/photos/me.png.
    source = Source(Path("/home/jens/photos/me.png"), 10, 1_000_000_000)
    save_thumbnail(source, np.zeros((4, 4, 3), np.uint8))
    assert [path.name for path in cache.iterdir()] == ["c6ee772d9e49320e97ec29a7eb5b1697.png"]


def test_it_says_what_the_standard_wants_and_is_the_users_alone(cache: Path, photo_file: Path) -> None:
    pixels, _ = read_tray_thumbnail(photo_file)
    (path,) = cache.iterdir()
    assert path.stem == hashlib.md5(photo_file.as_uri().encode()).hexdigest()
    said = Image.open(path).info
    assert said["Thumb::URI"] == photo_file.as_uri()
    assert said["Thumb::MTime"] == str(int(photo_file.stat().st_mtime))
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    assert stat.S_IMODE(cache.stat().st_mode) == 0o700
    again, _ = read_tray_thumbnail(photo_file)
    np.testing.assert_array_equal(again, pixels)


def test_one_of_an_older_file_or_another_kind_does_not_count(cache: Path, photo_file: Path) -> None:
    read_tray_thumbnail(photo_file)
    assert load_thumbnail(Source.of(photo_file)) is not None
    (path,) = cache.iterdir()
    path.write_bytes(b"no picture")
    assert load_thumbnail(Source.of(photo_file)) is None
    read_tray_thumbnail(photo_file)
    os.utime(photo_file, (1_000_000, 1_000_000))
    assert load_thumbnail(Source.of(photo_file)) is None


def test_where_nothing_can_be_kept_the_picture_is_there_all_the_same(cache: Path, photo_file: Path) -> None:
    cache.parent.parent.mkdir(parents=True, exist_ok=True)
    cache.parent.write_text("in the way")
    assert read_tray_thumbnail(photo_file)[0].shape == (120, 150, 3)


def test_large_ones_are_averaged_down() -> None:
    pixels = np.full((900, 600, 3), 77, np.uint8)
    small = shrink_thumbnail(pixels)
    assert small.shape == (256, 171, 3)
    assert np.abs(small.astype(int) - 77).max() <= 1
    assert shrink_thumbnail(small) is small
