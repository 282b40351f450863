"""Frames are found where they were put."""

from __future__ import annotations

import numpy as np
import pytest
from tests.core.frames.bursts import frame, hand_held, photograph

from wamplex.core.colour.luma import luma_plane
from wamplex.core.frames.align import AlignmentReference, align
from wamplex.core.frames.exposure import ExposureReference
from wamplex.core.frames.motion import inverse, move, scaled, translation

# Of a burst's frames against the reference, root of the mean square, in pixels.
MAX_ERROR_PX = {0.0: 0.02, 4.0: 0.02, 10.0: 0.05}


@pytest.mark.parametrize("noise", list(MAX_ERROR_PX))
def test_motion_is_measured_to_a_fiftieth_of_a_pixel(noise: float) -> None:
    scene = photograph("astronaut", 400)
    first, *others = hand_held(5)
    still = luma_plane(frame(scene, first, noise=noise, seed=9).astype(np.float32))
    reference, errors = AlignmentReference(still), []
    for number, there in enumerate(others):
        seen = luma_plane(frame(scene, there, noise=noise, seed=number).astype(np.float32))
        rows, columns = np.mgrid[: still.shape[0], : still.shape[1]].astype(np.float64)
        x, y = move(inverse(align(reference, seen).motion), columns, rows)
        true_x, true_y = there.places(*still.shape)
        errors.append(np.mean((x - true_x) ** 2 + (y - true_y) ** 2))
    assert np.sqrt(np.mean(errors)) < MAX_ERROR_PX[noise]


def test_another_scene_is_not_alike() -> None:
    one, other = (luma_plane(frame(photograph(name), hand_held(1)[0]).astype(np.float32)) for name in ("cat", "coffee"))
    reference, even = AlignmentReference(one), np.full_like(one, 90)
    assert align(reference, other).correlation < 0.5
    assert align(reference, one).correlation > 0.999
    assert align(reference, even).correlation == 0
    assert align(AlignmentReference(even), even).correlation == 0


def test_motion_between_larger_pictures_is_the_same_motion() -> None:
    """Twice the sides: a shift of one pixel is one of two, and pixel centres lie half a pixel inside."""
    np.testing.assert_allclose(scaled(translation(1, -2), 2), translation(2, -4), atol=1e-12)
    x, y = move(scaled(np.diag([2.0, 2.0, 1.0]), 3), np.array([-0.5]), np.array([1.0]))
    shift = np.array([[2.0, 0, 0], [0, 2.0, 0], [0, 0, 1]])
    small_x, small_y = move(shift, np.array([(-0.5 - 1) / 3]), np.array([(1.0 - 1) / 3]))
    np.testing.assert_allclose([x[0], y[0]], [small_x[0] * 3 + 1, small_y[0] * 3 + 1], atol=1e-12)


def test_exposure_is_measured_and_small_differences_are_none() -> None:
    pixels = frame(photograph("coffee"), hand_held(1)[0]).astype(np.float32)
    darker = np.clip(pixels * np.array([0.8, 0.9, 0.85], np.float32) + 6, 0, 255)
    reference = ExposureReference(pixels)
    gains, offsets = reference.exposure(darker, np.eye(3))
    np.testing.assert_allclose(gains, [0.8, 0.9, 0.85], atol=0.01)
    np.testing.assert_allclose(offsets, [6, 6, 6], atol=1.0)
    assert reference.exposure(pixels + 0.1, np.eye(3)) == ((1.0, 1.0, 1.0), (0.0, 0.0, 0.0))
