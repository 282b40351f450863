"""Noise of the mosaic, against what the simulated camera put in."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from tests.cameras import raw_file

from wamplex.core.intake.read import read_picture
from wamplex.core.model.sensor_noise import SensorNoise
from wamplex.core.raw.noise_estimation import stated_or_estimated_noise

# From ISO 100 to far beyond: about as in the cameras of Foi et al. (2008) and Brooks et al. (2019).
NOISES = [
    SensorNoise(1e-4, 2e-7),
    SensorNoise(4e-4, 2e-6),
    SensorNoise(1.6e-3, 2e-5),
    SensorNoise(6e-3, 1.5e-4),
]


def scene(brightest: float) -> np.ndarray:
    """Soft light over shapes with edges, of every brightness up to one: (600, 900, 3) linear."""
    across, down = np.meshgrid(np.linspace(0, 1, 900), np.linspace(0, 1, 600))
    light = 0.02 + 0.9 * across * (0.6 + 0.4 * np.sin(5 * down))
    for x, y, size, level in ((0.2, 0.3, 0.1, 0.4), (0.6, 0.7, 0.15, 0.1), (0.8, 0.25, 0.08, 1.2)):
        light[np.hypot(across - x, (down - y) * 0.67) < size] *= level
    colour = np.array([1.0, 0.8, 0.6])
    return np.asarray(np.clip(light, 0, 1)[..., None] * colour * brightest)


@pytest.mark.parametrize("noise", NOISES)
@pytest.mark.parametrize("brightest", [1.0, 0.12])  # well exposed, and three stops under
def test_it_is_found_within_15_percent(tmp_path: Path, noise: SensorNoise, brightest: float) -> None:
    raw = read_picture(raw_file(tmp_path / "a.dng", scene(brightest), noise=noise)).raw
    assert raw is not None
    for found in stated_or_estimated_noise(raw):
        for signal in (0.02 * brightest, 0.18 * brightest, 0.5 * brightest):
            variance = noise.shot * signal + noise.read
            assert found.shot * signal + found.read == pytest.approx(variance, rel=0.15)


@pytest.mark.parametrize("noise", NOISES)
def test_both_parts_are_found_where_there_is_shade_and_light(tmp_path: Path, noise: SensorNoise) -> None:
    raw = read_picture(raw_file(tmp_path / "a.dng", scene(1.0), noise=noise)).raw
    assert raw is not None
    green = stated_or_estimated_noise(raw)[1]
    assert green.shot == pytest.approx(noise.shot, rel=0.15)


def test_what_the_file_states_is_believed(tmp_path: Path) -> None:
    raw = read_picture(raw_file(tmp_path / "a.dng", scene(1.0), noise=NOISES[2], told=True)).raw
    assert raw is not None
    assert stated_or_estimated_noise(raw) == (NOISES[2],) * 3


def test_the_eye_of_a_clean_file_is_not_deceived(tmp_path: Path) -> None:
    raw = read_picture(raw_file(tmp_path / "a.dng", scene(1.0))).raw
    assert raw is not None
    assert all(
        found.deviation(0.18) < 3e-4 for found in stated_or_estimated_noise(raw)
    )  # rounding to 14 bits, and edges
