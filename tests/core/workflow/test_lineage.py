"""Sources and what was made of them are found again by what files say."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest

from wamplex.core.base.errors import UnreadablePictureError
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.deliver.deliver import deliver
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.intake.read import read_part, read_picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.workflow.lineage import results as made_module
from wamplex.core.workflow.lineage.result_folders import known_folders, remember_folder
from wamplex.core.workflow.lineage.results import find_result_file, find_results, find_source

RECIPE = Recipe(base=TrialSpec(upscaler="bicubic"), factor=2)


def make(source: Path, folder: Path | None = None, **delivery: object) -> Path:
    wanted = Delivery.model_validate({"folder": folder, "format": "png", "depth": 8, **delivery})
    return deliver(read_picture(source), RECIPE, wanted, Progress()).path


def names(source: Path, *folders: Path) -> list[str]:
    return [made.path.name for made in find_results(Source.of(source), folders, Progress())]


def test_results_are_found_beside_below_and_where_they_went(photo_file: Path, tmp_path: Path) -> None:
    far = tmp_path / "prints" / "may"
    make(photo_file)
    make(photo_file, photo_file.parent / "large", name_pattern="{name}-large", format="tiff")
    make(photo_file, far, name_pattern="{name}-far", format="jpeg")
    assert names(photo_file) == ["photo-2x.png", "photo-large.tif"]
    assert names(photo_file, far) == ["photo-2x.png", "photo-far.jpg", "photo-large.tif"]


def test_what_was_made_of_another_picture_of_this_name_is_none_of_its_own(photo_file: Path, tmp_path: Path) -> None:
    make(photo_file)
    photo_file.write_bytes(photo_file.read_bytes() + b"later")
    assert names(photo_file) == []


def test_a_pair_that_moved_together_finds_each_other_under_new_names(photo_file: Path, tmp_path: Path) -> None:
    result = make(photo_file, photo_file.parent / "large")
    moved = tmp_path / "archive" / "1987"
    shutil.copytree(photo_file.parent / "large", moved / "large")
    shutil.copy(photo_file, moved / "scan 12.png")
    shutil.rmtree(photo_file.parent / "large")
    photo_file.unlink()
    assert names(moved / "scan 12.png") == [result.name]
    made = find_result_file(moved / "large" / result.name)
    assert made is not None
    assert (made.width, made.height, made.source_name) == (300, 240, "photo.png")
    assert find_source(made, [], Progress()) == moved / "scan 12.png"
    (moved / "scan 12.png").write_bytes(b"other")
    assert find_source(made, [], Progress()) is None


def test_sources_of_which_nothing_was_made_are_not_read_whole(
    photo_file: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    make(photo_file)
    other = photo_file.with_name("other.png")
    shutil.copy(photo_file, other)
    hashed: list[Source] = []
    monkeypatch.setattr(Source, "digest", property(lambda self: hashed.append(self)))
    assert find_results(Source.of(other), [], Progress()) == ()
    assert hashed == []
    made_module._results_in.cache_clear()


def test_folders_of_results_are_remembered_the_latest_first(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    for name in ("a", "b", "a"):
        remember_folder(Path("/prints") / name)
    assert known_folders() == [Path("/prints/a"), Path("/prints/b")]
    (tmp_path / "wamplex" / "result-folders.json").write_text("[1, {")
    assert known_folders() == []


@pytest.mark.parametrize("kind", ["png", "tiff", "jpeg", "webp"])
def test_a_part_of_a_file_equals_that_part_of_the_whole(photo_file: Path, kind: str) -> None:
    path = make(photo_file, format=kind)
    whole = read_picture(path)
    part = read_part(path, Window(30, 200, 90, 500))
    assert part.pixels.shape == (40, 90, 3)
    np.testing.assert_array_equal(part.pixels, whole.pixels[200:, 30:120])
    assert part.profile == whole.profile


def test_a_part_of_a_raw_file_is_refused_in_words(tmp_path: Path) -> None:
    from wamplex.core.demo import demo_pictures

    raw = next(path for path in demo_pictures() if path.suffix == ".dng")
    with pytest.raises(UnreadablePictureError, match="Add it to the tray"):
        read_part(raw, Window(0, 0, 8, 8))
