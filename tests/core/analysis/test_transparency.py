"""Pictures with transparency are measured as they are seen, and pages of two tones are no pixel art."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest
from numpy.typing import NDArray
from skimage import data

from wamplex.core.analysis.content.content_type import classify_content
from wamplex.core.analysis.content.spots import find_spots
from wamplex.core.analysis.degradation.motion_blur import MotionBlur
from wamplex.core.analysis.report.condition import Condition, measure_whole_condition
from wamplex.core.analysis.report.evidence_crop import evidence_crop
from wamplex.core.analysis.report.findings import describe_condition, has_motion_blur
from wamplex.core.analysis.sample import Sample, on_contrasting_ground
from wamplex.core.analysis.suggestion.suggestion import suggest
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.readings.sampling import readings_at
from wamplex.core.render.render import render
from wamplex.core.trial.registry import find_upscaler

FACTOR = 4


def lettering() -> NDArray[np.float32]:
    """Ink as drawn by OpenCV's fonts, antialiased: (400, 800) in 0..1."""
    ink = np.zeros((400, 800), np.uint8)
    for row, text in enumerate(("Proof of the lettering", "at two sizes, in ink")):
        cv2.putText(ink, text, (20, 140 + 170 * row), cv2.FONT_HERSHEY_COMPLEX, 1.9, 255, 3 + row, cv2.LINE_AA)
    return ink.astype(np.float32) / np.float32(255)


def inked(alpha: NDArray[np.float32], ink: float) -> Picture:
    small = cv2.resize(alpha, None, fx=1 / FACTOR, fy=1 / FACTOR, interpolation=cv2.INTER_AREA)
    return Picture(np.full((*small.shape, 3), ink, np.float32), alpha=small)


def gain_db(picture: Picture, alpha: NDArray[np.float32]) -> float:
    """What the suggestion gains over bicubic in the transparency."""
    suggested = suggest(measure_whole_condition(picture))
    values = suggested.values_for(suggested.upscaler, find_upscaler(suggested.upscaler).values)
    window = Window(0, 0, alpha.shape[1], alpha.shape[0])
    specs = (TrialSpec(upscaler=suggested.upscaler, values=values), TrialSpec(upscaler="bicubic"))
    errors = [
        np.mean((render(picture, Recipe(base=spec, factor=FACTOR), window)[..., -1] - alpha) ** 2) for spec in specs
    ]
    return float(10 * np.log10(errors[1] / errors[0]))


@pytest.mark.parametrize("ink", [0.0, 1.0], ids=["black", "white"])
def test_ink_on_transparency_gains_by_what_is_suggested(ink: float) -> None:
    alpha = lettering()
    picture = inked(alpha, ink)
    condition = measure_whole_condition(picture)
    assert condition.content_type.kind in ("drawing", "lettering")
    assert condition.movement is None
    assert gain_db(picture, alpha) > 2.0


def test_the_evidence_shows_white_ink() -> None:
    picture = inked(lettering(), 1.0)
    crop = evidence_crop(Sample(picture), measure_whole_condition(picture), "blur")
    assert crop is not None
    assert crop.std() > 20


def test_a_soft_shadow_is_left_soft() -> None:
    alpha = cv2.GaussianBlur(lettering(), (0, 0), 6)
    picture = inked(alpha, 0.0)
    condition = measure_whole_condition(picture)
    suggested = suggest(condition)
    assert suggested.values.blur == 0
    assert "transparency may be intended" in suggested.reasons["blur"]
    (row,) = [finding for finding in describe_condition(condition) if finding.key == "blur"]
    assert not row.suggestion
    assert "transparency may be intended" in row.reason


def test_the_colour_under_transparent_places_counts_nowhere(photo: NDArray[np.uint8]) -> None:
    alpha = np.zeros(photo.shape[:2], np.float32)
    alpha[20:100, 30:120] = 1.0
    pixels = photo.astype(np.float32) / np.float32(255)
    other = np.where(alpha[..., np.newaxis] > 0, pixels, np.float32(0.37))
    seen = [on_contrasting_ground(Picture(colour, alpha=alpha)) for colour in (pixels, other)]
    assert seen[0].alpha is None
    np.testing.assert_allclose(seen[0].pixels, seen[1].pixels, atol=1e-6)
    opaque = Picture(pixels)
    assert on_contrasting_ground(opaque) is opaque


def test_the_sheet_says_that_light_ink_lies_on_black() -> None:
    rows = [describe_condition(measure_whole_condition(inked(lettering(), ink))) for ink in (1.0, 0.0)]
    assert [[row.value for row in of if row.key == "transparency"] for of in rows] == [["on black"], []]


@pytest.mark.parametrize("side", [256, 200])
def test_a_small_page_of_two_tones_is_lettering(side: int) -> None:
    """scikit-image's scanned page, made two-tone as a fax machine does."""
    page = data.page()
    small = cv2.resize(page, (side, side * page.shape[0] // page.shape[1]), interpolation=cv2.INTER_AREA)
    paper = cv2.GaussianBlur(small.astype(np.float32), (0, 0), 12)
    tones = np.where(small > paper - 12, 255, 0).astype(np.uint8)
    assert classify_content(np.dstack([tones] * 3), 0.0).kind == "lettering"


def test_motion_longer_than_a_picture_can_show_is_none() -> None:
    small = Condition(width=120, height=90, movement=MotionBlur(540.0, 10.0))
    assert has_motion_blur(small) is None
    assert has_motion_blur(replace(small, movement=MotionBlur(5.0, 10.0))) is not None


def test_places_to_judge_by_are_found_in_what_is_seen() -> None:
    """White ink is one colour throughout; only its transparency has places. One colour alone has its middle."""
    ink = measure_whole_condition(inked(lettering(), 1.0)).spots
    assert len(ink) >= 2
    bicubic = Recipe(base=TrialSpec(upscaler="bicubic"), factor=2.0)
    read = readings_at(inked(lettering(), 1.0), bicubic, [(spot.x, spot.y) for spot in ink])
    assert read["softness"] > 1
    (middle,) = find_spots(Picture(np.full((200, 300, 3), 0.5, np.float32)))
    assert (middle.x, middle.y) == (0.5, 0.5)
