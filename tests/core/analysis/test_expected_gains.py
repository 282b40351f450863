"""What is suggested: as the rules say, unless another way is likely to come nearer to the truth."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from wamplex.core.analysis.report.condition import UPSCALING_ROWS, Condition, measure_whole_condition
from wamplex.core.analysis.suggestion import expected_gains as expected_gains_module
from wamplex.core.analysis.suggestion import suggestion as suggestion_module
from wamplex.core.analysis.suggestion.alternatives import ALTERNATIVE_KEYS, alternatives
from wamplex.core.analysis.suggestion.expected_gains import (
    BY_RULES,
    JUDGED_KEYS,
    ExpectedGain,
    best_way,
    expected_gains,
    with_predictions,
)
from wamplex.core.analysis.suggestion.rules import suggest_by_rules
from wamplex.core.analysis.suggestion.suggestion import suggest
from wamplex.core.analysis.suggestion.suggestions import Suggestions
from wamplex.core.intake.read import read_picture
from wamplex.core.model.picture import Picture
from wamplex.core.model.upscale_values import Values
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.workflow.json_values import suggestion_values


@pytest.fixture
def condition(photo_file: Path) -> Condition:
    return measure_whole_condition(read_picture(photo_file), rows=UPSCALING_ROWS)


def predict(monkeypatch: pytest.MonkeyPatch, **cautious_db: float) -> None:
    """Let the judge expect so much of some ways, and nothing of the others."""
    named = {key.replace("_", " "): db for key, db in cautious_db.items()}

    def gains(condition: Condition, factor: float) -> dict[str, ExpectedGain]:
        return {key: ExpectedGain(db - 0.2, db, db + 0.5, db + 1) for key in JUDGED_KEYS for db in [named.get(key, -1)]}

    monkeypatch.setattr(suggestion_module, "expected_gains", gains)


def test_every_way_has_its_prediction(condition: Condition) -> None:
    gains = expected_gains(condition, 4)
    assert tuple(gains) == (*ALTERNATIVE_KEYS, BY_RULES)
    assert tuple(way.key for way in alternatives(condition)) == ALTERNATIVE_KEYS
    for gain in gains.values():
        assert gain.low_db <= gain.cautious_db <= gain.likely_db <= gain.high_db
    assert expected_gains(condition, 2) != gains
    assert expected_gains(condition, 6) == gains  # nothing beyond 4x has been learned from


def test_where_nothing_is_read_the_rules_count() -> None:
    tiny = measure_whole_condition(Picture(np.zeros((20, 20, 3), np.float32)), rows=UPSCALING_ROWS)
    assert expected_gains(tiny, 4) == {}
    assert suggest(tiny) == suggest_by_rules(tiny)


def test_the_way_that_gains_most_is_suggested(condition: Condition, monkeypatch: pytest.MonkeyPatch) -> None:
    predict(monkeypatch, rules=0.4, mender_strong=0.9, mender=0.7, burin=0.2)
    suggested = suggest(condition)
    assert suggested.upscaler == "mender"
    assert suggested.reason == "it is likely to come nearest to the truth"
    gain = suggested.expected_gain("mender", suggested.values_for("mender", find_upscaler("mender").values))
    assert gain is not None
    assert gain.less(-0.27).text == "1.4 dB nearer to the truth than bicubic, 0.7 to 1.9"
    heeded = find_upscaler("mender").values
    assert suggested.values_for("mender", heeded).compression == 50
    assert "more is likely" in str(suggested.reason_for("mender", heeded, "compression"))
    assert suggested.values_for("burin", heeded).compression != 50


def test_the_rules_count_where_another_way_is_hardly_better(
    condition: Condition, monkeypatch: pytest.MonkeyPatch
) -> None:
    predict(monkeypatch, rules=0.4, mender_strong=0.42)
    rules, suggested = suggest_by_rules(condition), suggest(condition)
    assert (suggested.upscaler, suggested.reason) == (rules.upscaler, rules.reason)


def test_interpolation_is_suggested_where_nothing_is_likely_to_be_better(
    condition: Condition, monkeypatch: pytest.MonkeyPatch
) -> None:
    predict(monkeypatch)
    suggested = suggest(condition)
    assert suggested.upscaler == "bicubic"
    assert suggested.reason == "no upscaler is likely to come nearer to the truth"


def test_upscalers_that_are_alike_get_the_same_values(condition: Condition, monkeypatch: pytest.MonkeyPatch) -> None:
    predict(monkeypatch, vellum_blur=0.3)
    suggested = suggest(condition)
    blur = suggested.values_for("vellum", ("blur",)).blur
    assert [suggested.values_for(key, ("blur",)).blur for key in ("thicket", "vellum-quick")] == [blur, blur]


def test_what_does_not_clean_gets_no_crispness_where_there_is_something_to_clean() -> None:
    noisy = Suggestions("mender", "of its noise", Values(noise=12, crispness=50), {})
    assert noisy.values_for("vellum", find_upscaler("vellum").values).crispness == 0
    assert noisy.values_for("mender", find_upscaler("mender").values).crispness == 50
    assert "would become crisp too" in str(noisy.reason_for("vellum", find_upscaler("vellum").values, "crispness"))


def test_a_trial_is_expected_to_gain_what_the_nearest_way_gains(
    condition: Condition, monkeypatch: pytest.MonkeyPatch
) -> None:
    predict(monkeypatch, vellum=0.5)
    suggested = suggest(condition)
    gain = suggested.expected_gain("vellum", Values())
    assert gain is not None
    assert gain.likely_db == pytest.approx(1.0)
    crisp = suggested.expected_gain("vellum", Values(crispness=50))
    assert crisp is not None
    assert crisp.likely_db == pytest.approx(1.0 - 0.27)  # own measurement, docs/crispness.md
    assert suggested.expected_gain("vellum", Values(blur=90)) is None
    assert suggested.expected_gain("vellum", Values(keep_source=50)) is None
    assert suggested.expected_gain("contour", Values()) is None


def test_less_than_nothing_is_said_as_it_is() -> None:
    assert ExpectedGain(-1.2, -0.8, -0.3, 0.02).text == "0.3 dB further from the truth than bicubic, −1.2 to 0.0"


def test_json_tells_all_that_was_judged(condition: Condition) -> None:
    told = suggestion_values(suggest(condition))
    assert len(told["judged"]) == len(JUDGED_KEYS)
    assert set(told["judged"][0]["expected_gain_db"]) == {"low", "likely", "high"}
    assert told["upscaler"] in {way["upscaler"] for way in told["judged"]} | {"bicubic"}


def test_predictions_that_come_with_the_measurements_are_not_made_again(
    condition: Condition, monkeypatch: pytest.MonkeyPatch
) -> None:
    known, asked = with_predictions(condition), suggest(condition)
    monkeypatch.setattr(expected_gains_module, "small_network", None)
    assert suggest(known) == asked


def test_of_few_tones_the_rules_get_no_benefit_of_the_doubt() -> None:
    rules, other = ExpectedGain(0, 0.5, 1, 2), ExpectedGain(0, 0.6, 1, 2)
    gains = {BY_RULES: rules, "mender strong": other}
    assert best_way(gains, colours=4096) == BY_RULES
    assert best_way(gains, colours=2) == "mender strong"
