"""Readings of faithfulness: what the result adds to its source, and how far it drifts from it."""

from __future__ import annotations

import numpy as np

from wamplex.core.base.lazy_imports import ndimage
from wamplex.core.colour.difference import ciede2000, srgb_to_lab
from wamplex.core.readings.full_reference import DoublePlane
from wamplex.core.readings.reading import ReadingResult
from wamplex.core.readings.reading_input import ReadingInput

_DRIFT_SOURCE_PX = 4.0


def round_trip(reading_input: ReadingInput) -> ReadingResult:
    """Mean CIEDE2000 between the result, shrunk back, and the source (Sharma et al. 2005)."""
    shrunk, source = reading_input.shrunk
    if shrunk.size == 0:
        return ReadingResult(0.0, np.zeros_like(reading_input.luma))
    difference = ciede2000(srgb_to_lab(shrunk), srgb_to_lab(source))
    return ReadingResult(float(difference.mean()), reading_input.at_result_size(difference))


def round_trip_psnr(reading_input: ReadingInput) -> ReadingResult:
    """PSNR in dB of the result, shrunk back, against the source; all colours, peak 255."""
    shrunk, source = reading_input.shrunk
    error = ((shrunk.astype(np.float64) - source) * 255) ** 2
    mean = float(error.mean()) if error.size else 0.0
    value = 99.0 if mean < 1e-5 else min(99.0, 10 * float(np.log10(255**2 / mean)))
    return ReadingResult(value, reading_input.at_result_size(np.sqrt(error.mean(axis=2))))


def colour_drift(reading_input: ReadingInput) -> ReadingResult:
    """Coarse difference of a* and b* from the source, root mean square, in CIELAB units."""
    drift = _coarse_drift(reading_input)
    return _root_mean_square(reading_input, np.hypot(drift[..., 1], drift[..., 2]))


def tone_drift(reading_input: ReadingInput) -> ReadingResult:
    """Coarse difference of L* from the source, root mean square, in CIELAB units."""
    return _root_mean_square(reading_input, np.abs(_coarse_drift(reading_input)[..., 0]))


def _root_mean_square(reading_input: ReadingInput, plane: DoublePlane) -> ReadingResult:
    value = float(np.sqrt((plane**2).mean())) if plane.size else 0.0
    return ReadingResult(value, reading_input.at_result_size(plane))


def _coarse_drift(reading_input: ReadingInput) -> DoublePlane:
    """Of the result shrunk back, at source resolution: nothing finer counts."""
    shrunk_result, source = reading_input.shrunk
    difference = srgb_to_lab(shrunk_result) - srgb_to_lab(source)
    result: DoublePlane = ndimage.gaussian_filter(difference, (_DRIFT_SOURCE_PX, _DRIFT_SOURCE_PX, 0))
    return result


def invented_detail(reading_input: ReadingInput) -> ReadingResult:
    """Share of the luma's variation that lies beyond the source's finest detail, in percent; own definition.

    Energy of the spectrum beyond half the source's sampling frequency, across or down, over all but the
    mean, of the place under a Hann window. The trace is the detail finer than a source pixel.
    """
    factor = reading_input.factor
    trace = np.abs(reading_input.luma - ndimage.gaussian_filter(reading_input.luma, 0.5 * max(factor, 1.0)))
    if factor <= 1:
        return ReadingResult(0.0, trace)
    energy, down, across = _spectrum(reading_input.luma)
    beyond = np.maximum(down[:, None], across[None]) > 0.5 / factor
    total = float(energy.sum())
    return ReadingResult(100 * float(energy[beyond].sum()) / total if total > 0 else 0.0, trace)


def repeated_pattern(reading_input: ReadingInput) -> ReadingResult:
    """Strongest repeat at a few result pixels' distance that the plain enlargement has not; own definition.

    Largest local maximum of the autocorrelation of the fine detail, at distances of 2 to 4 source pixels
    and less, above that of the plain enlargement's; 0 none to 100 a perfect grid.
    """
    factor = max(reading_input.factor, 1.0)
    fine = reading_input.luma - ndimage.gaussian_filter(reading_input.luma, factor)
    plain = reading_input.plain_luma - ndimage.gaussian_filter(reading_input.plain_luma, factor)
    radius = max(4, round(4 * factor))
    excess = _peak(fine, radius) - _peak(plain, radius)
    # Detail too faint to be seen does not count, however regular.
    contrast = min(1.0, float(fine.std()) / 1.0)
    local = ndimage.uniform_filter(np.abs(fine), round(4 * factor))
    return ReadingResult(100 * max(0.0, excess) * contrast, local * (excess > 0.1))


def _spectrum(plane: DoublePlane) -> tuple[DoublePlane, DoublePlane, DoublePlane]:
    """Energy without the mean, and the frequencies (cycles a pixel) of its rows and columns."""
    window = np.hanning(plane.shape[0])[:, None] * np.hanning(plane.shape[1])[None]
    energy: DoublePlane = np.abs(np.fft.rfft2((plane - plane.mean()) * window)) ** 2
    energy[:, 1:-1] *= 2  # the half that a real picture's spectrum repeats
    down: DoublePlane = np.abs(np.fft.fftfreq(plane.shape[0]))
    across: DoublePlane = np.fft.rfftfreq(plane.shape[1]).astype(np.float64)
    return energy, down, across


def _peak(plane: DoublePlane, radius: int) -> float:
    """Highest isolated maximum of the autocorrelation within ``reach`` pixels, away from the middle."""
    centred = plane - plane.mean()
    shape = [2 * n for n in plane.shape]
    spectrum = np.fft.rfft2(centred, shape)
    autocorrelation = np.fft.irfft2(np.abs(spectrum) ** 2, shape)
    if autocorrelation[0, 0] <= 0:
        return 0.0
    near = (
        np.roll(autocorrelation, (radius, radius), (0, 1))[: 2 * radius + 1, : 2 * radius + 1] / autocorrelation[0, 0]
    )
    highest = ndimage.maximum_filter(near, 3)
    peaks = (near == highest) & (near > 0)
    peaks[radius - 1 : radius + 2, radius - 1 : radius + 2] = False
    return float(near[peaks].max()) if peaks.any() else 0.0
