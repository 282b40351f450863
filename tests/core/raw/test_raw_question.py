"""The known-answer test of a raw file."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from tests.cameras import chart, raw_file

from wamplex.core.base.errors import SizeError
from wamplex.core.intake.read import read_picture
from wamplex.core.known_answer.compare import compare
from wamplex.core.known_answer.raw_question import make_raw_question
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.sensor_noise import SensorNoise
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.raw.noise_estimation import estimate_noise

NOISE = SensorNoise(2e-3, 2e-5)


def test_the_small_one_is_a_mosaic_with_the_files_own_noise(tmp_path: Path) -> None:
    flat = np.full((400, 600, 3), 0.3)
    question = make_raw_question(read_picture(raw_file(tmp_path / "a.dng", flat, noise=NOISE, told=True)), 2)
    assert question.small.raw is not None
    assert question.small.raw.mosaic is not None
    assert (question.small.width, question.small.height) == (300, 200)
    found = estimate_noise(question.small.raw.mosaic)[1]
    # What was left of the shrunk picture's own noise comes on top: a sixth or so.
    assert 1.0 < found.deviation(0.3) / NOISE.deviation(0.3) < 1.25


@pytest.mark.parametrize("orientation", [1, 6])
def test_truth_and_answer_lie_over_one_another(tmp_path: Path, orientation: int) -> None:
    picture = read_picture(raw_file(tmp_path / "a.dng", chart(360, 240), told=True, orientation=orientation))
    question = make_raw_question(picture, 2)
    assert np.abs(question.truth.pixels - picture.pixels).max() < 1e-6
    trials = [(key, Recipe(base=TrialSpec(upscaler=key))) for key in ("bicubic", "tessera")]
    answers = compare(question, trials)
    assert all(answer.psnr_db > 24 for answer in answers)  # a pixel aside, edges would cost more


def test_a_small_picture_is_refused_in_words(tmp_path: Path) -> None:
    picture = read_picture(raw_file(tmp_path / "a.dng", chart()))
    with pytest.raises(SizeError, match="too small"):
        make_raw_question(picture, 6)
