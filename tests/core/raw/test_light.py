"""The colour of light against the numbers of CIE 15:2004, and cameras under it."""

from __future__ import annotations

import numpy as np
import pytest
from tools.camera.sensor import CAMERA_FROM_XYZ

from wamplex.core.model.development import Light
from wamplex.core.model.raw_file import CameraColours
from wamplex.core.raw.camera_colours import (
    camera_matrix,
    camera_to_working_space,
    gains_for_illuminant,
    illuminant_in_camera,
)
from wamplex.core.raw.white_balance import chromaticity, estimate_illuminant

ONE = CameraColours(((6504.0, CAMERA_FROM_XYZ),))
TWO = CameraColours(((2856.0, CAMERA_FROM_XYZ * 1.1), (6504.0, CAMERA_FROM_XYZ)))


@pytest.mark.parametrize(
    ("kelvin", "x", "y"),
    [
        (2856, 0.4476, 0.4074),  # illuminant A, CIE 15:2004 table T.3
        (5003, 0.3457, 0.3585),  # D50
        (5503, 0.3324, 0.3474),  # D55
        (6504, 0.3127, 0.3290),  # D65
        (7504, 0.2990, 0.3149),  # D75
    ],
)
def test_illuminants_lie_where_the_cie_has_them(kelvin: float, x: float, y: float) -> None:
    assert chromaticity(Light(kelvin=kelvin)) == pytest.approx((x, y), abs=6e-4)


@pytest.mark.parametrize("kelvin", [2000, 3200, 4400, 5600, 9000, 15000])
@pytest.mark.parametrize("tint", [-20, 0, 15])
def test_a_light_is_found_again(kelvin: float, tint: float) -> None:
    found = estimate_illuminant(*chromaticity(Light(kelvin=kelvin, tint=tint)))
    assert found.kelvin == pytest.approx(kelvin, rel=0.01)
    assert found.tint == pytest.approx(tint, abs=0.5)


def test_greenish_light_has_a_tint_above_zero() -> None:
    (_, neutral), (_, green) = (chromaticity(Light(kelvin=5600, tint=tint)) for tint in (0, 20))
    assert green > neutral


@pytest.mark.parametrize("colours", [ONE, TWO])
def test_gains_and_light_belong_together(colours: CameraColours) -> None:
    gains = gains_for_illuminant(colours, Light(kelvin=4000, tint=5))
    found = illuminant_in_camera(colours, gains)
    assert found.kelvin == pytest.approx(4000, rel=0.02)
    assert found.tint == pytest.approx(5, abs=1)


def test_warm_light_asks_for_more_blue() -> None:
    warm, cold = (gains_for_illuminant(ONE, Light(kelvin=kelvin)) for kelvin in (3000, 8000))
    assert warm[2] > cold[2]
    assert warm[0] < cold[0]


def test_between_two_lights_the_matrix_goes_by_the_inverse_of_the_temperature() -> None:
    """DNG specification 1.4, chapter 6."""
    half = 2 / (1 / 2856 + 1 / 6504)
    expected = (TWO.matrices[0][1] + TWO.matrices[1][1]) / 2
    assert np.allclose(camera_matrix(TWO, half), expected)
    assert np.allclose(camera_matrix(TWO, 1800), TWO.matrices[0][1])
    assert np.allclose(camera_matrix(TWO, 20000), TWO.matrices[1][1])


@pytest.mark.parametrize("space", ["bt2020", "romm", "srgb"])
def test_white_stays_white(space: str) -> None:
    gains = gains_for_illuminant(ONE, Light(kelvin=4500))
    assert camera_to_working_space(ONE, gains, space) @ np.ones(3) == pytest.approx(np.ones(3), abs=2e-3)  # type: ignore[arg-type]
