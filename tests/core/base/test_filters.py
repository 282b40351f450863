"""The fast filters against SciPy's."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import ndimage

from wamplex.core.base.filters import block_means, box, gaussian


@pytest.fixture
def plane(photo: np.ndarray) -> np.ndarray:
    return photo[..., 1].astype(np.float32) / 255


@pytest.mark.parametrize("sigma", [0.8, 1.5, 8.0])
def test_gaussian_smoothing_is_scipys(sigma: float, plane: np.ndarray) -> None:
    assert np.allclose(gaussian(plane, sigma), ndimage.gaussian_filter(plane, sigma), atol=1e-5)


@pytest.mark.parametrize("sigma", [0.8, 3.0])
def test_gaussian_derivatives_are_scipys(sigma: float, plane: np.ndarray) -> None:
    across = ndimage.gaussian_filter(plane, sigma, order=(0, 1))
    down = ndimage.gaussian_filter(plane, sigma, order=(1, 0))
    assert np.allclose(gaussian(plane, sigma, across=1), across, atol=1e-4)
    assert np.allclose(gaussian(plane, sigma, down=1), down, atol=1e-4)


@pytest.mark.parametrize("size", [3, 9, 25])
def test_box_means_are_scipys(size: int, plane: np.ndarray) -> None:
    assert np.allclose(box(plane, size), ndimage.uniform_filter(plane, size), atol=1e-5)


@pytest.mark.parametrize("side", [2, 3, 12])
@pytest.mark.parametrize("channels", [1, 3])
def test_block_means_are_means_of_blocks(side: int, channels: int, photo: np.ndarray) -> None:
    plane = photo[:100, :110, :channels].astype(np.float32)
    rows, columns = 100 // side, 110 // side
    whole = plane[: rows * side, : columns * side].reshape(rows, side, columns, side, channels)
    assert np.allclose(block_means(plane, side), whole.mean(axis=(1, 3)), rtol=1e-5)


def test_blocks_larger_than_the_picture_leave_nothing() -> None:
    assert block_means(np.ones((5, 40), np.float32), 6).shape == (0, 6)
