"""What ticking does, on the models alone."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtWidgets import QApplication

from wamplex.app.assess.suggestions import use_suggestions
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.tray import Tray
from wamplex.core.analysis.compression.file_compression import FileCompression
from wamplex.core.analysis.content.spots import Spot
from wamplex.core.analysis.degradation.noise_level import NoiseLevel
from wamplex.core.analysis.faces.face import Face
from wamplex.core.analysis.report.condition import Condition
from wamplex.core.analysis.report.finding import Finding, Suggestion
from wamplex.core.analysis.report.findings import describe_condition
from wamplex.core.base.window import Window
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.intake.probe import Probe, probe
from wamplex.core.model.source import Source

FACE = Face(40, 30, 40, 50, 0.99, ((50, 50), (70, 50)))
CONDITION = replace(
    Condition(150, 120, ("compression", "noise", "enlarged", "faces", "borders")),
    compression=FileCompression(40, "the tables say so"),
    noise=NoiseLevel(8, 6, 5, 0.5, 0.5),
    faces=(FACE,),
    borders=Window(10, 10, 130, 100),
    spots=(Spot(0.5, 0.5, "detail", "Detail"),),
)


@pytest.fixture
def entry(tray: Tray) -> TrayEntry:
    return tray.entries[0]


@pytest.fixture
def tray(qapp: QApplication, photo_file: Path) -> Tray:
    made = Tray()
    made.add([photo_file])
    found: Probe = probe(photo_file)
    made.file_facts.picture(found, np.zeros((120, 150, 3), np.uint8))
    made.file_facts.condition(Source.of(photo_file), CONDITION, {}, 0.1)
    made.file_facts.measured(Source.of(photo_file))
    return made


def rows() -> dict[str, Finding]:
    return {finding.key: finding for finding in describe_condition(CONDITION)}


def tick(*keys: str) -> list[Suggestion]:
    """The suggestions of these rows."""
    return [suggestion for key in keys if (suggestion := rows()[key].suggestion) is not None]


def test_both_repairs_are_the_suggested_values(tray: Tray, entry: TrayEntry) -> None:
    words = use_suggestions(tray, entry, tick("compression", "noise"))
    mender = next(t for t in entry.trials.remaining if t.upscaler_key == "mender")
    assert mender.values is None  # so that they follow a new measurement
    values = entry.trial_recipe(mender).values
    assert (values.noise, values.compression) == (16, 60)
    assert "noise 16, compression 60" in words


@pytest.mark.parametrize(("key", "expected"), [("noise", (16, 0)), ("compression", (0, 60))])
def test_what_is_not_ticked_is_left_alone(
    tray: Tray, entry: TrayEntry, key: str, expected: tuple[float, float]
) -> None:
    use_suggestions(tray, entry, tick(key))
    mender = next(t for t in entry.trials.remaining if t.upscaler_key == "mender")
    values = entry.trial_recipe(mender).values
    assert (values.noise, values.compression) == expected


def test_a_crop_keeps_the_spots_that_are_left(tray: Tray, entry: TrayEntry) -> None:
    tray.set_spots(0, (Spot(0.02, 0.5, "own", "At the edge"), Spot(0.5, 0.5, "detail", "Detail")))
    assert "cropped to 130 × 100 px" in use_suggestions(tray, entry, tick("borders"))
    assert [spot.name for spot in entry.spots] == ["Detail"]
    assert tray.undo()
    assert [spot.name for spot in entry.spots] == ["At the edge", "Detail"]
    assert entry.framing == Framing()


def test_the_users_own_crop_stays(tray: Tray, entry: TrayEntry) -> None:
    own = Framing(crop=Crop(x=20, y=20, width=50, height=50))
    tray.set_framing(0, own)
    assert "your crop is kept" in use_suggestions(tray, entry, tick("borders"))
    assert entry.framing == own


def test_an_earlier_enlargement_is_undone(tray: Tray, entry: TrayEntry) -> None:
    shrink = Suggestion("shrink", "Shrink 2× first", amount=2.0)
    assert "shrunk 2× first" in use_suggestions(tray, entry, [shrink])
    assert entry.recipe("bicubic").framing.shrink_first == 2.0
    assert entry.size is not None
    assert entry.size.width_px == 600  # the print stays as large as it was


@pytest.fixture
def eye(tray: Tray, photo_file: Path) -> None:
    """The places to look at have been found, an eye among them."""
    spot = Spot(70 / 150, 50 / 120, "eye", "Eye")
    tray.file_facts.condition(Source.of(photo_file), replace(CONDITION, spots=(spot,)), {}, 0.1)


@pytest.mark.usefixtures("eye")
def test_the_eye_becomes_a_spot_once(tray: Tray, entry: TrayEntry) -> None:
    tray.set_spots(0, (Spot(0.5, 0.5, "detail", "Detail"),))
    assert "the eye is now a spot" in use_suggestions(tray, entry, tick("faces"))
    assert (entry.spots[0].x * 150, entry.spots[0].y * 120) == pytest.approx((70, 50))
    assert "already" in use_suggestions(tray, entry, tick("faces"))


@pytest.mark.usefixtures("eye")
def test_an_eye_outside_the_crop_is_said_to_be(tray: Tray, entry: TrayEntry) -> None:
    tray.set_spots(0, ())
    tray.set_framing(0, Framing(crop=Crop(x=100, y=60, width=50, height=60)))
    assert "outside the crop" in use_suggestions(tray, entry, tick("faces"))
    assert entry.spots == ()


def test_the_factor_follows_the_sheet(tray: Tray, entry: TrayEntry) -> None:
    tray.set_sheet(0, Sheet(width_mm=150, height_mm=120))
    use_suggestions(tray, entry, tick("size"))
    assert entry.size is not None
    assert entry.size.factor == 6
    assert entry.size.width_mm == pytest.approx(150, abs=0.1)


def test_no_place_for_another_trial_is_said(tray: Tray, entry: TrayEntry) -> None:
    trials = entry.trials
    for key in ("nearest", "bilinear", "contour"):
        trials = trials.add(key)
    tray.set_trials(0, trials)
    burin = Suggestion("upscaler", "Try Burin", "burin")
    assert "strike a trial first" in use_suggestions(tray, entry, [burin])


def test_nothing_ticked_does_nothing(tray: Tray, entry: TrayEntry) -> None:
    before = (entry.decisions, entry.trials)
    assert use_suggestions(tray, entry, []) == ""
    assert (entry.decisions, entry.trials) == before
    assert not tray.decided


def test_small_faces_are_made_apart_only_when_ticked(tray: Tray, entry: TrayEntry) -> None:
    (suggestion,) = tick("small faces")
    assert not suggestion.at_first
    assert "40 px wide" in rows()["small faces"].reason
    words = use_suggestions(tray, entry, [suggestion])
    faces = entry.finish.faces
    assert faces is not None
    assert faces.source_trial is not None
    assert (faces.source_trial.upscaler, faces.attenuation, faces.ellipses[0].on) == ("mender", 50, True)
    assert words == "faces are made with Mender: see Finish"


def test_large_faces_are_not_taken_apart() -> None:
    large = replace(CONDITION, faces=(FACE.scaled(3),))
    assert "small faces" not in {finding.key for finding in describe_condition(large)}
