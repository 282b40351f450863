"""What was stamped before: kept by kind of picture, without names, on this computer."""

from __future__ import annotations

from pathlib import Path

import pytest

from wamplex.core.analysis.report.condition import measure_whole_condition
from wamplex.core.analysis.suggestion.suggestion import suggest
from wamplex.core.demo import demo_pictures
from wamplex.core.intake.read import read_picture
from wamplex.core.model.source import Source
from wamplex.core.workflow.orders.stamp_history import (
    forget_stamp_history,
    load_stamp_history,
    picture_class,
    remember_choice,
    stamp_history_path,
)


@pytest.fixture
def sources(tmp_path: Path) -> list[Source]:
    for number in range(5):
        (tmp_path / f"aunt-{number}.jpg").write_bytes(bytes(number + 1))
    return [Source.of(tmp_path / f"aunt-{number}.jpg") for number in range(5)]


def test_the_last_choice_for_a_picture_counts(sources: list[Source]) -> None:
    for source in sources[:4]:
        remember_choice(source, "soft portraits", "mender", blind=source is sources[0])
    remember_choice(sources[3], "soft portraits", "vellum")
    remember_choice(sources[4], "clean drawings", "burin")
    known = load_stamp_history()
    assert known.counts("soft portraits") == {"mender": 3, "vellum": 1}
    assert known.text("soft portraits", "mender", "Mender") == "of 4 soft portraits you chose Mender 3 times"
    assert known.kinds == ("soft portraits", "clean drawings")
    remember_choice(sources[0], "soft portraits", "mender")  # stamped again, with its name in view
    assert [choice.blind for choice in load_stamp_history().choices if choice.blind] == [True]
    remember_choice(sources[0], "soft portraits", None)  # the stamp was taken off
    assert load_stamp_history().counts("soft portraits")["mender"] == 2


def test_nothing_of_a_pictures_name_or_place_is_kept(sources: list[Source]) -> None:
    remember_choice(sources[0], "soft portraits", "mender")
    kept = stamp_history_path().read_text()
    assert "aunt" not in kept
    assert str(sources[0].path.parent) not in kept
    forget_stamp_history()
    assert load_stamp_history().choices == ()


def test_a_damaged_file_is_set_aside(sources: list[Source]) -> None:
    remember_choice(sources[0], "soft portraits", "mender")
    stamp_history_path().write_text("{")
    assert load_stamp_history().choices == ()
    remember_choice(sources[1], "soft portraits", "vellum")
    assert load_stamp_history().counts("soft portraits") == {"vellum": 1}
    assert [path.name for path in stamp_history_path().parent.glob("*.damaged-*")] == ["choices.json.damaged-1"]


@pytest.mark.parametrize(
    ("name", "kind"),
    [
        ("rehearsal.jpg", "noisy portraits"),
        ("linocut-poster.png", "clean drawings"),
        ("dress-rehearsal.dng", "raw portraits"),
    ],
)
def test_kinds_say_what_is_shown_and_what_is_wrong(name: str, kind: str) -> None:
    path = next(path for path in demo_pictures() if path.name == name)
    condition = measure_whole_condition(read_picture(path))
    assert picture_class(condition, suggest(condition)).split()[0] == kind.split()[0]
    assert picture_class(condition, suggest(condition)).split()[-1] in (kind.split()[-1], "photographs")
