"""The known-answer test, and the spots it is looked at with."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import ndimage
from skimage import data, metrics

from wamplex.core.analysis.content.spots import find_spots
from wamplex.core.base.errors import SizeError
from wamplex.core.base.window import Window
from wamplex.core.demo import demo_pictures
from wamplex.core.intake.read import read_picture
from wamplex.core.known_answer.compare import answer_pixels, as_csv, as_rows, compare
from wamplex.core.known_answer.question import TestDamage, make_question
from wamplex.core.known_answer.truth_alignment import question_from_truth
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.readings.full_reference import luma, ssim


@pytest.fixture(scope="module")
def coffee() -> Picture:
    """scikit-image's coffee (Rachel Michetti, CC0)."""
    return Picture(data.coffee()[:301, :403].astype(np.float32) / np.float32(255))


@pytest.mark.parametrize("factor", [1.5, 2.0, 3.0, 3.7])
def test_the_answer_has_the_size_of_the_truth(factor: float, coffee: Picture) -> None:
    question = make_question(coffee, factor)
    window = Window(0, 0, question.truth.width, question.truth.height)
    made = answer_pixels(question, Recipe(base=TrialSpec(upscaler="bicubic")), window)
    assert made.shape == question.truth.pixels.shape
    # A pixel out of place, whichever way, is further off.
    near, *moved = (
        metrics.peak_signal_noise_ratio(question.truth.pixels, np.roll(made, by, (0, 1)), data_range=1)
        for by in ((0, 0), (1, 0), (-1, 0), (0, 1), (0, -1))
    )
    assert near > max(moved) + 1
    assert np.ptp(moved) < 0.5


def test_trials_are_ranked_by_nearness(coffee: Picture) -> None:
    trials = [(k, Recipe(base=TrialSpec(upscaler=k))) for k in ("nearest", "vellum", "bicubic")]
    answers = compare(make_question(coffee, 3), trials)
    assert [a.label for a in answers] == ["vellum", "bicubic", "nearest"]
    assert answers[0].ssim > answers[1].ssim > answers[2].ssim
    assert answers[0].gmsd < answers[1].gmsd < answers[2].gmsd
    assert as_csv(answers).splitlines()[0].startswith("label,upscaler,psnr_db,ssim,gmsd,ciede2000,seconds")
    first, _, last = as_rows(answers)
    assert float(str(last["stair-steps"])) > float(str(first["stair-steps"]))


def test_ssim_is_scikit_images(coffee: Picture) -> None:
    plane = luma(coffee.pixels)
    worse = ndimage.gaussian_filter(plane, 1.2)
    reference = metrics.structural_similarity(
        worse, plane, data_range=255, gaussian_weights=True, sigma=1.5, use_sample_covariance=False
    )
    assert ssim(worse, plane) == pytest.approx(reference, abs=1e-3)
    assert ssim(plane, plane) == pytest.approx(1)


def test_damage_is_done(coffee: Picture) -> None:
    clean, noisy, blocky = (
        make_question(coffee, 2, d).small.pixels
        for d in (TestDamage(), TestDamage(noise_levels=8), TestDamage(quality=30))
    )
    assert np.std(noisy - clean) * 255 == pytest.approx(8, rel=0.1)
    assert 1 < np.abs(blocky - clean).mean() * 255 < 8
    with pytest.raises(SizeError, match="too small"):
        make_question(Picture(coffee.pixels[:60, :60]), 4)


def test_a_truth_from_another_file_is_moved_to_fit(coffee: Picture) -> None:
    moved = ndimage.shift(coffee.pixels[:300, :400], (2.4, -1.6, 0), order=3, mode="nearest")
    question = make_question(Picture(coffee.pixels[:300, :400]), 2)
    found = question_from_truth(question.small, Picture(np.clip(moved, 0, 1)))
    inside = (slice(12, -12), slice(12, -12))
    # Moving to and fro by fractions of a pixel blurs a little, even by the right amount.
    back = ndimage.shift(moved, (-2.4, 1.6, 0), order=3, mode="nearest")
    ideal = np.abs(back - question.truth.pixels)[inside].mean()
    assert np.abs(found.truth.pixels - question.truth.pixels)[inside].mean() < 1.1 * ideal
    with pytest.raises(SizeError, match="proportions"):
        question_from_truth(question.small, Picture(moved[:200]))
    with pytest.raises(SizeError, match="same picture"):
        question_from_truth(question.small, Picture(moved[::-1].copy()))


def test_spots_are_spread_and_named() -> None:
    for path in demo_pictures():
        spots = find_spots(read_picture(path))
        assert 5 <= len(spots) <= 8
        assert len({s.name for s in spots}) == len(spots)
        places = np.array([(s.x, s.y) for s in spots])
        apart = np.hypot(*(places[:, None] - places[None]).transpose(2, 0, 1)) + np.eye(len(spots))
        assert apart.min() > 0.08
        assert (places > 0).all()
        assert (places < 1).all()
    (only,) = find_spots(Picture(np.zeros((20, 30, 3), np.float32)))
    assert (only.x, only.y) == (0.5, 0.5)


def test_spots_are_what_they_are_called() -> None:
    """Lettering on a card over a smooth ramp."""
    from PIL import Image, ImageDraw, ImageFont

    ramp = np.linspace(60, 190, 600)[:, None] * np.ones((600, 800))
    image = Image.fromarray(ramp.astype(np.uint8))
    draw = ImageDraw.Draw(image)
    draw.rectangle((420, 300, 780, 540), fill=240)
    for line in range(5):
        text = "every Saturday at three"
        draw.text((440, 320 + 42 * line), text, fill=10, font=ImageFont.load_default(26))
    spots = {s.kind: s for s in find_spots(Picture(np.asarray(image)[..., None].astype(np.float32) / np.float32(255)))}
    assert 420 < 800 * spots["lettering"].x < 780
    assert 300 < 600 * spots["lettering"].y < 540
    assert 800 * spots["gradient"].x < 420 or 600 * spots["gradient"].y < 300


def test_the_posters_lettering_is_found() -> None:
    """Its title fills the upper seventh of the picture; the hatching below must not pass for it."""
    poster = next(path for path in demo_pictures() if path.name.startswith("linocut"))
    (lettering,) = (s for s in find_spots(read_picture(poster)) if s.kind == "lettering")
    assert lettering.y < 0.2
