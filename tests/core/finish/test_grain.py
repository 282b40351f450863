"""Numbers that belong to places: the same in every window, without a pattern."""

from __future__ import annotations

import numpy as np

from wamplex.core.base.window import Window
from wamplex.core.upscale.networks.position_noise import fold_into_planes, position_noise

WHOLE = position_noise(Window(0, 0, 3000, 1024))


def test_any_window_is_that_part_of_the_whole() -> None:
    for window in (Window(0, 0, 1, 1), Window(17, 900, 333, 41), Window(2999, 0, 1, 1024)):
        part = WHOLE[window.y : window.bottom, window.x : window.right]
        assert np.array_equal(position_noise(window), part)


def test_the_numbers_are_the_same_on_every_computer() -> None:
    """Worked out with Python's own integers."""

    def mixed(n: int) -> int:
        n ^= n >> 16
        n = n * 0x7FEB352D % 2**32
        n ^= n >> 15
        n = n * 0x846CA68B % 2**32
        return n ^ (n >> 16)

    for x, y in ((0, 0), (1, 0), (0, 1), (2999, 1023)):
        share = mixed(mixed(y ^ 0x9E3779B9) ^ x) / 2**32
        assert abs(WHOLE[y, x] - (share - 0.5) * 12**0.5) < 1e-6


def test_they_are_even_and_without_a_pattern() -> None:
    """White noise: moments, neighbours that know nothing of each other, and a flat spectrum.

    The largest of n values of a white spectrum exceeds its mean ln n + 4 times in fewer than 2 of 100 cases.
    """
    assert abs(WHOLE.mean()) < 4 / np.sqrt(WHOLE.size)
    assert abs(WHOLE.std() - 1) < 0.002
    for down, right in ((0, 1), (1, 0), (1, 1), (0, 2), (2, 0), (4, 4), (0, 256), (256, 0)):
        moved = np.roll(WHOLE, (down, right), (0, 1))
        assert abs((WHOLE * moved).mean()) < 4.5 / np.sqrt(WHOLE.size)
    for corner in (0, 1900):
        power = np.abs(np.fft.rfft2(WHOLE[:, corner : corner + 1024])) ** 2
        power[0, 0] = 0
        assert power.max() / power.mean() < np.log(power.size) + 4


def test_planes_are_in_the_order_of_the_pixel_shuffle() -> None:
    numbers = WHOLE[:6, :8]
    planes = fold_into_planes(numbers, 2)
    assert planes.shape == (4, 3, 4)
    for place, (down, right) in enumerate(((0, 0), (0, 1), (1, 0), (1, 1))):
        assert np.array_equal(planes[place], numbers[down::2, right::2])
