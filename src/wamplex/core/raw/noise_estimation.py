"""Measures the noise of a sensor on its mosaic: variance as a straight line over the signal."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.array_types import Plane
from wamplex.core.base.lazy_imports import cv2
from wamplex.core.base.window import Window
from wamplex.core.model.raw_file import Mosaic, RawFile
from wamplex.core.model.sensor_noise import SensorNoise

_BINS = 32
_LEAST_IN_BIN = 200
# Of the places of like brightness, the smoothest so many count: where there is least to be seen.
_SMOOTHEST = 0.3
# Beyond this share of full scale, part of the noise is cut off.
_MOST_SIGNAL = 0.92
_MEDIAN_OF_NORMAL = 0.6745
_ROUNDS = 6
# Deviations from which on a residual counts no more, and the variance that a normal one keeps so.
_FAR_OUT, _KEPT_OF_NORMAL = 2.5, 0.9775
# Every second pixel of a large sensor tells enough.
_MOST_PX = 6_000_000
# Takes out planes and ramps in both directions (Immerkaer 1996); of white noise it leaves the deviation.
_MASK = np.outer([1, -2, 1], [1, -2, 1]).astype(np.float32) / 6


@dataclass(frozen=True)
class NoiseBins:
    """What was found: mean signal and variance of places of like brightness, and how many they are."""

    signal: NDArray[np.float64]
    variance: NDArray[np.float64]
    count: NDArray[np.float64]


def stated_or_estimated_noise(raw: RawFile) -> tuple[SensorNoise, SensorNoise, SensorNoise]:
    """Noise of red, green and blue as recorded: as the file states it, else measured, once."""
    mosaic = raw.mosaic
    if raw.noise is not None:
        return raw.noise
    if mosaic is None:
        return SensorNoise(), SensorNoise(), SensorNoise()
    return raw.cache.get("noise", lambda: estimate_noise(mosaic))


def estimate_noise(mosaic: Mosaic) -> tuple[SensorNoise, SensorNoise, SensorNoise]:
    """Noise of red, green and blue as they were recorded, full scale being 1.

    As Foi et al. (2008): high frequencies of smooth places, gathered by brightness, and a line through their
    variances. The planes of a colour are looked at by themselves, since neighbours on them are independent.
    """
    step = 1 if mosaic.values.size <= _MOST_PX else 2
    window = Window(0, 0, mosaic.width // (2 * step) * 2 * step, mosaic.height // (2 * step) * 2 * step)
    linear = mosaic.linear(window)
    bins: dict[int, list[NoiseBins]] = {0: [], 1: [], 2: []}
    for place, channel in enumerate(mosaic.pattern):
        plane = np.ascontiguousarray(linear[place // 2 :: 2, place % 2 :: 2])
        if step > 1:  # a strip from everywhere, its neighbours kept
            plane = plane[:, : plane.shape[1] // 2]
        bins[channel].append(bin_variances(plane))
    red, green, blue = (fit_line(bins[channel]) for channel in (0, 1, 2))
    return red, green, blue


def bin_variances(plane: Plane) -> NoiseBins:
    """Signal and variance of the smooth places of one plane, by brightness."""
    residual = np.abs(cv2.filter2D(plane, -1, _MASK, borderType=cv2.BORDER_REFLECT_101))
    level = cv2.blur(plane, (5, 5))
    # What is to be seen: steps between means of areas, which tell nothing of the mask's own result.
    wide = cv2.blur(plane, (9, 9))
    shown = np.abs(cv2.Sobel(wide, -1, 1, 0, ksize=3)) + np.abs(cv2.Sobel(wide, -1, 0, 1, ksize=3))
    inner = (slice(5, -5), slice(5, -5))
    residual, level, shown = residual[inner].ravel(), level[inner].ravel(), shown[inner].ravel()
    used = level < _MOST_SIGNAL
    residual, level, shown = residual[used], level[used], shown[used]
    order = np.argsort(level)
    signals, variances, counts = [], [], []
    for part in np.array_split(order, _BINS):
        if len(part) < _LEAST_IN_BIN:
            continue
        smooth = part[shown[part] <= np.quantile(shown[part], _SMOOTHEST)]
        signals.append(float(level[smooth].mean()))
        variances.append(_variance(residual[smooth]))
        counts.append(float(len(smooth)))
    return NoiseBins(np.array(signals), np.array(variances), np.array(counts))


def _variance(residual: Plane) -> float:
    """Of what is normal among absolute residuals: what lies far out is taken for something to be seen.

    From the median on, which alone would miss a part of the few photons in the dark.
    """
    variance = (float(np.median(residual)) / _MEDIAN_OF_NORMAL) ** 2
    squared = residual.astype(np.float64) ** 2
    for _ in range(_ROUNDS):
        variance = float(np.minimum(squared, _FAR_OUT**2 * variance).mean()) / _KEPT_OF_NORMAL
    return variance


def fit_line(parts: list[NoiseBins]) -> SensorNoise:
    """The line that fits best, each variance weighed by how surely it is known; neither term below 0.

    A bin that lies far above the line holds texture, and counts less in the next round.
    """
    signal, variance, count = (
        np.concatenate([getattr(part, name) for part in parts]) for name in ("signal", "variance", "count")
    )
    if len(signal) < 2:
        return SensorNoise(0.0, float(variance.mean()) if len(variance) else 0.0)
    trust = np.ones(len(signal))
    fitted = variance
    shot, read = 0.0, 0.0
    for _ in range(_ROUNDS):
        weight = trust * np.sqrt(count) / np.maximum(fitted, 1e-12)
        shot, read = _not_negative(signal, variance, weight)
        fitted = np.maximum(shot * signal + read, 1e-12)
        above = np.maximum(variance / fitted - 1, 0)
        trust = 1 / (1 + (above / 0.15) ** 2)
    return SensorNoise(shot, read)


def _not_negative(
    signal: NDArray[np.float64], variance: NDArray[np.float64], weight: NDArray[np.float64]
) -> tuple[float, float]:
    design = np.stack([signal, np.ones_like(signal)], axis=1)
    (shot, read), *_ = np.linalg.lstsq(design * weight[:, None], variance * weight, rcond=None)
    squared = weight**2
    if shot < 0:
        return 0.0, float((squared * variance).sum() / squared.sum())
    if read < 0:
        return float((squared * variance * signal).sum() / (squared * signal**2).sum()), 0.0
    return float(shot), float(read)
