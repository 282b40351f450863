"""Decisions are kept apart from facts, and taken back step by step."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtWidgets import QApplication

from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.history import History
from wamplex.app.tray.tray import Tray
from wamplex.core.analysis.content.spots import Spot
from wamplex.core.analysis.degradation.noise_level import NoiseLevel
from wamplex.core.analysis.report.condition import Condition
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.intake.probe import probe
from wamplex.core.model.source import Source
from wamplex.core.model.upscale_values import Values

SPOTS = (Spot(0.2, 0.3, "detail", "Detail"), Spot(0.9, 0.9, "texture", "Finest texture"))

CONDITION = replace(Condition(150, 120, ("noise",)), noise=NoiseLevel(8, 6, 5, 0.5, 0.5), spots=SPOTS)


@pytest.fixture
def tray(qapp: QApplication, photo_file: Path) -> Tray:
    made = Tray()
    made.add([photo_file])
    made.file_facts.picture(probe(photo_file), np.zeros((120, 150, 3), np.uint8))
    return made


@pytest.fixture
def entry(tray: Tray) -> TrayEntry:
    return tray.entries[0]


def measure(tray: Tray, path: Path) -> None:
    tray.file_facts.condition(Source.of(path), CONDITION, {}, 0.1)
    tray.file_facts.measured(Source.of(path))


def test_turning_before_measuring_has_ended_loses_no_spot(tray: Tray, entry: TrayEntry, photo_file: Path) -> None:
    tray.set_framing(0, Framing(turns=1))
    measure(tray, photo_file)
    assert len(entry.spots) == 2
    assert (entry.spots[0].x, entry.spots[0].y) == pytest.approx((0.7, 0.2))
    tray.undo()
    assert entry.spots == SPOTS


def test_spots_outside_of_a_crop_come_back_with_it(tray: Tray, entry: TrayEntry, photo_file: Path) -> None:
    measure(tray, photo_file)
    tray.set_framing(0, Framing(crop=Crop(x=0, y=0, width=60, height=60)))
    assert [spot.name for spot in entry.spots] == ["Detail"]
    own = replace(entry.spots[0], name="Handle", kind="own")
    tray.set_spots(0, (own,))
    tray.set_framing(0, Framing())
    assert [spot.name for spot in entry.spots][:1] == ["Handle"]


def test_what_is_suggested_is_tried_also_after_a_decision_is_taken_back(
    tray: Tray, entry: TrayEntry, photo_file: Path
) -> None:
    tray.set_trials(0, entry.trials.strike("B"))
    measure(tray, photo_file)
    tray.undo()
    assert entry.suggested is not None
    assert entry.suggested.upscaler in [trial.upscaler_key for trial in entry.trials.rows]


def test_a_slider_on_its_way_is_one_step(tray: Tray, entry: TrayEntry) -> None:
    clock = [0.0]
    tray.history = History(lambda: clock[0])
    for noise in (5, 10, 15):
        tray.set_trials(0, entry.trials.set_values("D", Values(noise=noise)))
        clock[0] += 0.5
    clock[0] += 10
    tray.set_trials(0, entry.trials.set_values("D", Values(noise=40)))
    assert tray.undo() == "values of D"
    assert entry.trials.find("D").values == Values(noise=15)
    assert tray.undo() == "values of D"
    assert entry.trials.find("D").values is None
    assert tray.redo() == "values of D"
    assert entry.trials.find("D").values == Values(noise=15)


def test_quick_decisions_of_other_kinds_stay_apart(tray: Tray, entry: TrayEntry) -> None:
    tray.set_framing(0, Framing(turns=1))
    tray.set_framing(0, Framing(turns=2))
    tray.undo()
    assert entry.framing == Framing(turns=1)


def test_what_changed_is_announced(tray: Tray, entry: TrayEntry, photo_file: Path) -> None:
    told: list[frozenset[str]] = []
    tray.changed.connect(lambda _number, what: told.append(what))
    tray.set_framing(0, Framing(turns=1))
    tray.set_viewing_distance(0, 700)
    tray.set_trials(0, entry.trials.activate("A"))
    tray.file_facts.unusable(photo_file, "gone")
    assert told == [{"framing"}, {"distance"}, {"look"}, {"file"}]
