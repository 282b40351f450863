"""The colour of light: from temperature and tint to chromaticity, and back (CIE 15:2004)."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from wamplex.core.model.development import Light

Uv = tuple[float, float]

LEAST_K, MOST_K = 1700.0, 25000.0
# Below, light is that of a glowing body; above, of the sky; between, one becomes the other.
_GLOWING_K, _SKY_K = 4000.0, 5000.0
_STEP_MIRED = 1.0


def xy_to_uv(x: float, y: float) -> Uv:
    """CIE 1960 chromaticity."""
    below = -2 * x + 12 * y + 3
    return 4 * x / below, 6 * y / below


def uv_to_xy(u: float, v: float) -> tuple[float, float]:
    """CIE 1931 chromaticity."""
    below = 2 * u - 8 * v + 4
    return 3 * u / below, 2 * v / below


def planckian(kelvin: float) -> Uv:
    """Planckian locus: the rational approximation of Krystek (1985), exact to 0.0001 from 1000 to 15000 K."""
    t = kelvin
    u = (0.860117757 + 1.54118254e-4 * t + 1.28641212e-7 * t * t) / (1 + 8.42420235e-4 * t + 7.08145163e-7 * t * t)
    v = (0.317398726 + 4.22806245e-5 * t + 4.20481691e-8 * t * t) / (1 - 2.89741816e-5 * t + 1.61456053e-7 * t * t)
    return u, v


def daylight(kelvin: float) -> Uv:
    """Daylight locus of CIE 15:2004, equations 3.3 to 3.5: 4000 to 25000 K."""
    t = 1000 / kelvin
    if kelvin <= 7000:
        x = 0.244063 + 0.09911 * t + 2.9678 * t * t - 4.6070 * t**3
    else:
        x = 0.237040 + 0.24748 * t + 1.9018 * t * t - 2.0064 * t**3
    return xy_to_uv(x, -3.000 * x * x + 2.870 * x - 0.275)


def illuminant_locus(kelvin: float) -> Uv:
    """Light of a temperature, without tint."""
    fraction = (1 / _GLOWING_K - 1 / kelvin) / (1 / _GLOWING_K - 1 / _SKY_K)
    if fraction <= 0:
        return planckian(kelvin)
    if fraction >= 1:
        return daylight(kelvin)
    (gu, gv), (du, dv) = planckian(kelvin), daylight(kelvin)
    return gu + fraction * (du - gu), gv + fraction * (dv - gv)


def chromaticity(light: Light) -> tuple[float, float]:
    """CIE 1931 x and y of a light."""
    u, v = illuminant_locus(light.kelvin)
    across, up = _upwards(light.kelvin)
    return uv_to_xy(u + light.tint / 1000 * across, v + light.tint / 1000 * up)


def estimate_illuminant(x: float, y: float) -> Light:
    """The light of a chromaticity: the nearest place of the locus, and how far off it lies.

    Returns
    -------
    Within the limits of what can be told; the temperature to some 0.5 %.
    """
    u, v = xy_to_uv(x, y)
    kelvins, places = _sampled()
    away = np.hypot(places[:, 0] - u, places[:, 1] - v)
    nearest = int(np.argmin(away))
    kelvin = float(kelvins[nearest])
    across, up = _upwards(kelvin)
    u0, v0 = places[nearest]
    tint = 1000 * ((u - u0) * across + (v - v0) * up)
    return Light(kelvin=kelvin, tint=float(np.clip(tint, -50, 50)))


def _upwards(kelvin: float) -> Uv:
    """Across the locus, towards green: of length 1."""
    (u0, v0), (u1, v1) = illuminant_locus(kelvin * 0.998), illuminant_locus(kelvin * 1.002)
    length = math.hypot(u1 - u0, v1 - v0)
    return -(v0 - v1) / length, (u0 - u1) / length


@lru_cache(maxsize=1)
def _sampled() -> tuple[np.ndarray, np.ndarray]:
    mired = np.arange(1e6 / MOST_K, 1e6 / LEAST_K, _STEP_MIRED)
    kelvins = 1e6 / mired
    return kelvins, np.array([illuminant_locus(float(k)) for k in kelvins])
