"""Kernels against the values in the papers they come from."""

from __future__ import annotations

import numpy as np
import pytest

from wamplex.core.upscale.stages.kernels import BILINEAR, CATMULL_ROM, LANCZOS3, MITCHELL, Kernel
from wamplex.core.upscale.stages.resample import axis_weights

ALL = {"bilinear": BILINEAR, "catmull-rom": CATMULL_ROM, "mitchell": MITCHELL, "lanczos3": LANCZOS3}


def at(kernel: Kernel, *distances: float) -> list[float]:
    return [float(v) for v in kernel.weight(np.array(distances))]


def test_mitchell_has_its_published_values() -> None:
    """Mitchell and Netravali (1988), B = C = 1/3: 16/18 in the middle, 1/18 at the neighbours."""
    assert at(MITCHELL, 0, 1, 2) == pytest.approx([16 / 18, 1 / 18, 0])


def test_catmull_rom_has_keys_values() -> None:
    """Keys (1981), a = -1/2: 1 and 0 at whole distances, 9/16 and -1/16 half way."""
    assert at(CATMULL_ROM, 0, 1, 2) == pytest.approx([1, 0, 0])
    assert at(CATMULL_ROM, 0.5, 1.5) == pytest.approx([9 / 16, -1 / 16])


def test_lanczos_is_windowed_sinc() -> None:
    """Duchon (1979): sinc(x) sinc(x / 3); at 1/2 that is (2 / pi) (3 / pi)... of sin(pi/6)."""
    half = (np.sin(np.pi / 2) / (np.pi / 2)) * (np.sin(np.pi / 6) / (np.pi / 6))
    assert at(LANCZOS3, 0, 0.5, 1, 2, 3) == pytest.approx([1, half, 0, 0, 0], abs=1e-12)


@pytest.mark.parametrize("name", ALL)
def test_kernels_are_symmetric_and_end_at_their_radius(name: str) -> None:
    kernel = ALL[name]
    distance = np.linspace(0, kernel.radius + 1, 301)
    assert np.allclose(kernel.weight(distance), kernel.weight(-distance))
    assert np.abs(kernel.weight(distance[distance >= kernel.radius])).max() < 1e-12


@pytest.mark.parametrize("name", ["bilinear", "catmull-rom", "mitchell"])
def test_cubics_and_triangle_sum_to_one_at_every_phase(name: str) -> None:
    kernel = ALL[name]
    for phase in np.linspace(0, 1, 33):
        assert kernel.weight(phase + np.arange(-4, 5)).sum() == pytest.approx(1, abs=1e-12)


@pytest.mark.parametrize("name", ALL)
@pytest.mark.parametrize(("source", "output"), [(10, 40), (7, 23), (40, 10), (1, 9), (9, 1), (1000, 333)])
def test_weights_sum_to_one_and_stay_inside(name: str, source: int, output: int) -> None:
    first, weights = axis_weights(source, output, ALL[name], 0, output)
    assert np.allclose(weights.sum(axis=1), 1, atol=1e-6)
    assert first >= 0
    assert first + weights.shape[1] <= source


def test_weights_of_a_part_equal_those_of_the_whole() -> None:
    first_all, whole = axis_weights(50, 170, LANCZOS3, 0, 170)
    first, part = axis_weights(50, 170, LANCZOS3, 60, 90)
    offset = first - first_all
    assert np.array_equal(whole[60:90, offset : offset + part.shape[1]], part)


def test_shrinking_widens_the_kernel() -> None:
    """Antialiasing: at a quarter, every source pixel of a cell must count."""
    _, weights = axis_weights(40, 10, BILINEAR, 5, 6)
    assert np.count_nonzero(weights > 0) == 8
