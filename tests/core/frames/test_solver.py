"""The mathematics of joining, against what must hold."""

from __future__ import annotations

import numpy as np
import pytest

from wamplex.core.frames.colour_differences import from_differences, to_differences
from wamplex.core.frames.sampling import Sampler, convolve, pixel_kernel
from wamplex.core.frames.solver import Samples, solve

RANDOM = np.random.default_rng(4)
HEIGHT, WIDTH = 30, 40


def test_sampling_is_exact_for_parabolas() -> None:
    """Catmull and Rom (1974): interpolation that reproduces polynomials of the second degree."""
    rows, columns = np.mgrid[:HEIGHT, :WIDTH].astype(np.float64)
    parabola = 0.03 * columns**2 - 0.02 * rows**2 + 0.01 * rows * columns + columns
    x, y = RANDOM.uniform(2, WIDTH - 4, 50), RANDOM.uniform(2, HEIGHT - 4, 50)
    sampled = Sampler.at(x, y, WIDTH, HEIGHT).sample(parabola.astype(np.float32)[..., np.newaxis])[:, 0]
    np.testing.assert_allclose(sampled, 0.03 * x**2 - 0.02 * y**2 + 0.01 * y * x + x, atol=1e-3)


def test_scattering_is_the_transpose_of_sampling() -> None:
    """<A x, y> = <x, A' y> for any x and y."""
    sampler = Sampler.at(RANDOM.uniform(-1, WIDTH, 200), RANDOM.uniform(-1, HEIGHT, 200), WIDTH, HEIGHT)
    picture = RANDOM.normal(size=(HEIGHT, WIDTH, 2)).astype(np.float32)
    values = RANDOM.normal(size=(200, 2)).astype(np.float32)
    one, other = np.vdot(sampler.sample(picture), values), np.vdot(picture, sampler.scatter(values, HEIGHT, WIDTH))
    assert one == pytest.approx(other, rel=1e-4)


@pytest.mark.parametrize("factor", [2, 3, 4])
def test_the_kernel_of_a_pixel_is_as_wide_as_box_and_lens(factor: int) -> None:
    """Variances add: that of a box is its width squared over 12 (handbook value)."""
    kernel = pixel_kernel(factor, 0.5).astype(np.float64)
    places = np.arange(kernel.size) - kernel.size // 2
    assert kernel.sum() == pytest.approx(1, abs=1e-6)
    assert (kernel * places**2).sum() == pytest.approx(factor**2 / 12 + (0.5 * factor) ** 2, rel=0.03)


def test_joining_is_the_least_squares_solution() -> None:
    """Against the same system solved by NumPy; away from the border, where blur is mirrored."""
    side, half, inner = 24, 12, np.s_[8:-8, 8:-8]
    truth = RANDOM.normal(0, 10, (side, side, 1)).astype(np.float32)
    kernel = pixel_kernel(2, 0.3)
    samples = []
    for shift_x, shift_y in ((0.5, 0.5), (1.1, 0.4), (0.2, 1.3), (1.4, 1.4)):
        y, x = (n.ravel() for n in np.mgrid[:half, :half] * 2.0)
        sampler = Sampler.at(x + shift_x, y + shift_y, side, side)
        samples.append(Samples(sampler, sampler.sample(convolve(truth, kernel)), np.ones((half**2, 1), np.float32)))
    unit = np.eye(side**2, dtype=np.float32).reshape(side, side, -1)
    blurred = np.stack([convolve(np.ascontiguousarray(plane), kernel) for plane in np.moveaxis(unit, 2, 0)], axis=2)
    seen = np.concatenate([s.sampler.sample(blurred) for s in samples])
    values = np.concatenate([s.values for s in samples])[:, 0]
    exact = np.linalg.solve(seen.T @ seen + np.eye(side**2) / 25, seen.T @ values).reshape(side, side)
    freedom = np.full((side, side, 1), 5.0, np.float32)
    joined = solve(np.zeros_like(truth), freedom, samples, kernel, 80)[..., 0]
    assert np.abs((joined - exact)[inner]).max() < 0.05 * np.abs(exact[inner]).max()


def test_colour_differences_lead_back() -> None:
    pixels = RANDOM.uniform(0, 255, (5, 6, 3)).astype(np.float32)
    np.testing.assert_allclose(from_differences(to_differences(pixels)), pixels, atol=1e-3)
    grey = pixels[..., :1]
    assert from_differences(to_differences(grey)) is grey
