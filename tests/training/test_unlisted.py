"""Histories by chance, and the judge that learns from them."""

from __future__ import annotations

import numpy as np
import pytest

torch = pytest.importorskip("torch")
av = pytest.importorskip("av")

from training.unlisted.chain import LEFT_OUT, STEPS, degrade  # noqa: E402
from training.unlisted.codecs import opened, video_frame  # noqa: E402
from training.unlisted.collect import judge_picture  # noqa: E402
from training.unlisted.fit import Judge, Panel, pinball, widening  # noqa: E402
from training.unlisted.held_back import is_held_back  # noqa: E402
from training.unlisted.step import eight_bits  # noqa: E402

from wamplex.core.analysis.suggestion.expected_gains import JUDGED_KEYS, LEVELS  # noqa: E402


@pytest.fixture
def truth() -> np.ndarray:
    from skimage import data

    return np.ascontiguousarray(data.astronaut()[:256, 100:356])


@pytest.mark.parametrize("kind", list(STEPS))
def test_a_step_keeps_the_size_and_about_the_tones(kind: str, truth: np.ndarray) -> None:
    small = truth[::2, ::2].astype(np.float32)
    changed, detail = STEPS[kind].apply(small, np.random.default_rng(1))
    assert changed.shape == small.shape
    assert detail
    assert np.abs(changed.mean((0, 1)) - small.mean((0, 1))).max() < 12


def test_a_seed_draws_the_same_chain_again(truth: np.ndarray) -> None:
    first, second = (degrade(truth, (64, 64), 5) for _ in range(2))
    assert first == second
    assert degrade(truth, (64, 64), 6) != first
    assert opened(first[0]).shape == (64, 64, 3)


def test_what_is_left_out_of_training_is_only_measured(truth: np.ndarray) -> None:
    for seed in range(60):
        learned, measured = (degrade(truth, (64, 64), seed, unlisted=u)[1] for u in (False, True))
        assert not set(learned.kinds) & set(LEFT_OUT)
        assert set(measured.kinds) & set(LEFT_OUT)


def test_a_later_frame_of_a_film_is_predicted_from_earlier_ones(truth: np.ndarray) -> None:
    levels = truth.astype(np.float32)
    frames = [video_frame(levels, "libx264", 28, n, np.random.default_rng(2)) for n in (0, 2)]
    assert not np.array_equal(frames[0], frames[1])
    assert all(10 * np.log10(255**2 / ((f - levels) ** 2).mean()) > 25 for f in frames)


def test_a_picture_is_judged_in_every_way_or_in_some(truth: np.ndarray) -> None:
    judged = judge_picture(truth, 2, 3, unlisted=True, source="a")
    assert judged is not None
    assert len(judged.gains) == len(JUDGED_KEYS)
    assert np.isfinite([*judged.gains, judged.suggested]).all()
    some = judge_picture(truth, 2, 3, unlisted=False, source="a", tried=2)
    assert some is not None
    assert np.isnan(some.gains).sum() >= len(JUDGED_KEYS) - 6
    assert np.isfinite(some.gains[-1])


def test_a_sixth_of_the_truths_is_held_back() -> None:
    assert 0.1 < np.mean([is_held_back(f"picture {n}") for n in range(2000)]) < 0.2
    assert is_held_back("one") == is_held_back("one")


def test_the_quantile_loss_is_least_at_the_quantile() -> None:
    """Koenker and Bassett 1978."""
    gains = torch.linspace(0, 1, 1001)[:, None]
    losses = {}
    for level in np.arange(0.02, 1, 0.02):
        quantiles = torch.full((1001, 1, len(LEVELS)), float(level))
        at = (gains[..., None] - quantiles)[..., 0]
        losses[level] = [float(torch.maximum(q * at, (q - 1) * at).mean()) for q in LEVELS]
    for number, level in enumerate(LEVELS):
        assert min(losses, key=lambda one: losses[one][number]) == pytest.approx(level, abs=0.021)
    assert float(pinball(torch.zeros(2, 1, len(LEVELS)), torch.tensor([[0.0], [float("nan")]]))) == 0


def test_the_spread_is_widened_until_it_holds_nine_in_ten() -> None:
    torch.manual_seed(1)
    panel = Panel([Judge(torch.zeros(5), torch.ones(5)) for _ in range(2)]).eval()
    numbers, gains = torch.randn(400, 5), torch.randn(400, len(JUDGED_KEYS))
    with torch.no_grad():
        panel.widening.copy_(widening(panel, numbers, gains))
        quantiles = panel(numbers)
    inside = (gains >= quantiles[..., 0]) & (gains <= quantiles[..., -1])
    assert float(inside.float().mean()) == pytest.approx(0.9, abs=0.02)
    assert eight_bits(np.array([[[-3.0, 260, 7.6]]], np.float32)).tolist() == [[[0, 255, 8]]]
