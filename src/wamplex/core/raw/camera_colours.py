"""From a camera's colours to those of a working space."""

from __future__ import annotations

import numpy as np

from wamplex.core.base.array_types import Matrix
from wamplex.core.colour.icc import (
    BT2020,
    ROMM,
    SRGB,
    Space,
    adaptation,
    make_profile,
    primaries,
    xyz_from_chromaticity,
)
from wamplex.core.model.development import Development, Light, WorkingSpace
from wamplex.core.model.raw_file import CameraColours, RawFile, Triple
from wamplex.core.raw.white_balance import chromaticity, estimate_illuminant

SPACES: dict[WorkingSpace, Space] = {"bt2020": BT2020, "romm": ROMM, "srgb": SRGB}
_FIRST_K = 5000.0
_ROUNDS = 12
_LEAST_GAIN, _MOST_GAIN = 0.1, 20.0


def working_profile(space: WorkingSpace) -> bytes:
    """The ICC profile that goes into files."""
    return make_profile(SPACES[space])


def camera_matrix(colours: CameraColours, kelvin: float) -> Matrix:
    """(3, 3) from XYZ to the camera under some light: between its two matrices by the inverse of the
    temperature, as the DNG specification (1.4, chapter 6) has it."""
    (low, cold), (high, warm) = colours.matrices[0], colours.matrices[-1]
    if low == high:
        return cold
    fraction = (1 / low - 1 / kelvin) / (1 / low - 1 / high)
    return cold + float(np.clip(fraction, 0, 1)) * (warm - cold)


def illuminant_in_camera(colours: CameraColours, gains: Triple) -> Light:
    """The light under which these gains make grey grey: found in turns, since the matrix hangs on it."""
    light = Light(kelvin=_FIRST_K)
    for _ in range(_ROUNDS):
        white = np.linalg.inv(camera_matrix(colours, light.kelvin)) @ (1 / np.asarray(gains))
        if white.min() <= 0:
            break
        x, y = (float(n) for n in white[:2] / white.sum())
        illuminant = estimate_illuminant(x, y)
        if illuminant == light:
            break
        light = illuminant
    return light


def gains_for_illuminant(colours: CameraColours, light: Light) -> Triple:
    """Gains of red, green (1) and blue that make grey grey under a light."""
    white = camera_matrix(colours, light.kelvin) @ xyz_from_chromaticity(chromaticity(light))
    red, blue = (float(np.clip(white[1] / max(white[i], 1e-6), _LEAST_GAIN, _MOST_GAIN)) for i in (0, 2))
    return red, 1.0, blue


def white_balance_gains(raw: RawFile, development: Development) -> Triple:
    """The balance that was decided on: a light, a picked place, or as shot."""
    if development.light is not None:
        return gains_for_illuminant(raw.colours, development.light)
    if development.neutral is not None:
        return development.neutral[0], 1.0, development.neutral[1]
    return raw.gains


def camera_to_working_space(colours: CameraColours, gains: Triple, space: WorkingSpace) -> Matrix:
    """(3, 3) from balanced camera colours to linear light of a space; grey stays grey.

    Through XYZ under the light of the picture, adapted to the space's white by Bradford, as the DNG
    specification (1.4, chapter 6) has it.
    """
    target = SPACES[space]
    to_xyz = np.linalg.inv(camera_matrix(colours, illuminant_in_camera(colours, gains).kelvin)) @ np.diag(
        1 / np.asarray(gains)
    )
    white = to_xyz.sum(axis=1)
    if white.min() <= 0:  # gains no light has: colours stay those of the camera
        return np.eye(3)
    adapted = adaptation(white / white[1], xyz_from_chromaticity(target.white)) @ (to_xyz / white[1])
    result: Matrix = np.linalg.inv(primaries(target)) @ adapted
    return result
