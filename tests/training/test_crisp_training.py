"""Kestrel's training: its schedule, its loss, and what is kept to resume it on another machine."""

from __future__ import annotations

from pathlib import Path

import pytest

torch = pytest.importorskip("torch")

from training.crisp.keep import MAX_BYTES, keep, kept_state  # noqa: E402
from training.crisp.network import CrispNetwork, detail_scale, uniform_noise  # noqa: E402
from training.crisp.train import RATE, TOTAL_STEPS, Run, learning_rate, save  # noqa: E402


def test_the_rate_is_constant_to_the_half_and_ends_at_zero() -> None:
    assert learning_rate(0) < RATE / 10
    assert learning_rate(1000) == learning_rate(TOTAL_STEPS // 2) == RATE
    assert learning_rate(TOTAL_STEPS) == pytest.approx(0, abs=1e-9)


def test_flat_areas_have_the_smallest_scale_and_no_detail() -> None:
    detail, scale = detail_scale(torch.full((1, 1, 24, 24), 0.5))
    assert float(detail.abs().max()) < 1e-3
    assert float(scale.max()) == pytest.approx(0.004, abs=1e-4)


def test_the_flow_has_the_size_of_the_result() -> None:
    network = CrispNetwork(4)
    features = network.features(torch.rand(2, 3, 12, 10))
    detail = torch.zeros(2, 1, 48, 40)
    assert network.flow(features, uniform_noise((2, 1, 48, 40)), detail).shape == (2, 1, 48, 40)


def test_a_kept_training_goes_on_where_it_was(tmp_path: Path) -> None:
    torch.manual_seed(3)
    network = CrispNetwork(4)
    optimizer = torch.optim.Adam(network.parameters(), lr=1e-3)
    for parameter in network.parameters():
        parameter.grad = torch.randn_like(parameter) * 1e-4
    optimizer.step()
    save(tmp_path, Run(network, CrispNetwork(4), optimizer, steps=7, minutes=1.5))
    paths = keep(tmp_path, 4, tmp_path / "kept")
    assert all(path.stat().st_size < MAX_BYTES for path in paths)
    state = kept_state(4, tmp_path / "kept")
    assert state is not None
    assert (state["steps"], state["minutes"]) == (7, 1.5)
    again = torch.optim.Adam(CrispNetwork(4).parameters(), lr=1e-3)
    again.load_state_dict(state["optimizer"])
    before, after = (next(iter(o.state.values()))["exp_avg_sq"] for o in (optimizer, again))
    assert torch.allclose(before, after, rtol=0.01, atol=0)
