"""Time left is learned from what was made on this computer."""

from __future__ import annotations

import pytest

from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.workflow.queue.throughput import _path, duration_text, expected_seconds, record_throughput

VELLUM, BICUBIC = Recipe(), Recipe(base=TrialSpec(upscaler="bicubic"))


def test_nothing_is_said_before_something_alike_was_made() -> None:
    record_throughput(BICUBIC, 10, 2)
    assert expected_seconds(VELLUM, 10) is None
    assert expected_seconds(BICUBIC, 20) == pytest.approx(4)


def test_a_machine_that_became_slower_is_followed() -> None:
    record_throughput(VELLUM, 10, 2)
    for _ in range(12):
        record_throughput(VELLUM, 10, 6)
    assert expected_seconds(VELLUM, 10) == pytest.approx(6, rel=0.05)


@pytest.mark.parametrize("text", ["[1, 2]", '{"a": "b"}', "{", '{"bicubic 4x": -3}'])
def test_damaged_notes_are_no_notes(text: str) -> None:
    record_throughput(BICUBIC, 1, 1)
    _path().write_text(text)
    assert expected_seconds(BICUBIC, 1) is None
    record_throughput(BICUBIC, 2, 1)
    assert expected_seconds(BICUBIC, 2) == pytest.approx(1)


@pytest.mark.parametrize(
    ("seconds", "words"),
    [(0.2, "1 s"), (59, "59 s"), (89, "1 min"), (3599, "1 h 00 min"), (5000, "1 h 23 min")],
)
def test_times_in_words(seconds: float, words: str) -> None:
    assert duration_text(seconds) == words
