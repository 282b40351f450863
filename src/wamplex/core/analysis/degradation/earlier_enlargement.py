"""Whether a picture was enlarged before it came here, and how much."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wamplex.core.analysis.compression.file_compression import Codec
from wamplex.core.analysis.degradation.downscale_loss import downscale_loss, loss_minimum
from wamplex.core.analysis.degradation.resampling_factor import estimate_resampling_factor
from wamplex.core.base.array_types import Luma
from wamplex.core.base.lazy_imports import ndimage

Spectrum = NDArray[np.float64]

_FREQUENCIES = 4096
_LARGEST_FACTOR = 5.0
_LEAST_PEAK = 7.0  # over the median of the spectrum; untouched pictures stay below 4.4
# A small or calm picture has a faint peak; it counts if shrinking loses next to nothing, by this share of
# what counts as survival otherwise, and if compression left no peaks of this height beside it.
_FAINT_PEAK, _LOSES_NOTHING, _NO_FELLOW = 4.6, 0.6, 3.0
# Compression leaves peaks at every eighth; one that belongs to enlargement must stand out from its fellows.
_LEAST_FELLOW, _OVER_GRID = 4.5, 2.5
_LEAST_REPEATS, _MOST_REPEATS = 1.18, 8.0  # beyond eight times it is rather a flat picture
# By factor, from interpolated photographs: the depth of the pattern that only straight lines between pixels
# that far apart leave.
_FACTORS = (2.0, 2.2, 2.5, 3.0, 3.5, 4.0)
_STRAIGHT = (0.80, 0.75, 0.62, 0.60, 0.55, 0.50)


@dataclass(frozen=True)
class EarlierEnlargement:
    """An earlier enlargement.

    Attributes
    ----------
    factor : how much, linear
    by_repeating : whether pixels were merely repeated
    by_loss : whether it was detected by the loss of shrinking rather than by a periodic pattern
    """

    factor: float
    by_repeating: bool = False
    by_loss: bool = False


def detect_earlier_enlargement(luma: Luma, codec: Codec = "jpeg", *, drawn: bool = False) -> EarlierEnlargement | None:
    """The factor of an earlier enlargement from 1.25 to 5, None when none is seen.

    Interpolated pixels vary less than the ones between which they lie, so that differences of neighbours get
    a period (Gallagher 2005). Factors f and f / (f - 1) give the same period; of the two, the larger is
    meant when the picture survives being shrunk that far, or bends at every f-th pixel only. Small pictures
    are too short for a period to show, but their texture tells which size loses nothing; so does, less
    exactly, what shrinking takes from the few outlines of a drawing.

    Parameters
    ----------
    luma : (H, W) in 8-bit levels, 0 to 255
    codec : what compressed the file; WebP works on squares of 4 pixels, which have a rhythm of their own
    drawn : whether it is a drawing or lettering

    Returns
    -------
    The factor, and how it is seen.
    """
    if min(luma.shape) < 96:
        return None
    repeats = _repeats(luma)
    if _LEAST_REPEATS < repeats <= _MOST_REPEATS:
        return EarlierEnlargement(repeats, by_repeating=True)
    if drawn:
        return _detect_by_rhythm(luma, codec) or _detect_by_loss(loss_minimum(luma))
    return _detect_by_loss(estimate_resampling_factor(luma)) or _detect_by_rhythm(luma, codec)


def _detect_by_loss(factor: float | None) -> EarlierEnlargement | None:
    return None if factor is None else EarlierEnlargement(factor, by_loss=True)


def _detect_by_rhythm(luma: Luma, codec: Codec) -> EarlierEnlargement | None:
    frequency, peak = _strongest_frequency(luma, codec)
    if frequency is None:
        return None
    larger, smaller = 1 / frequency, 1 / (1 - frequency)
    if peak < _LEAST_PEAK:
        return EarlierEnlargement(larger) if downscale_loss(luma, larger, _LOSES_NOTHING) else None
    if _straight_between(luma, larger) or downscale_loss(luma, larger):
        return EarlierEnlargement(larger)
    return EarlierEnlargement(smaller) if larger - smaller > 0.1 else None


def _repeats(luma: Luma) -> float:
    """How many pixels of a row and of a column are the same on average, flat places left out."""
    candidates = []
    for axis in (0, 1):
        steps = np.abs(np.diff(luma, axis=axis)).mean(axis=1 - axis)
        if not (steps > 0).any():
            return 1.0
        (changes,) = np.nonzero(steps > 0.05 * np.median(steps[steps > 0]))
        runs = np.diff(changes)
        # Flat places are long runs among many short ones.
        runs = runs[runs <= 2 * np.median(runs)] if len(runs) else np.ones(1)
        candidates.append(float(runs.mean()))
    return min(candidates)


def _strongest_frequency(luma: Luma, codec: Codec) -> tuple[float | None, float]:
    """Frequency, 0.2 to 0.5 a pixel, at which differences of neighbours vary most, and how much.

    None when it is nowhere.
    """
    spectrum = np.maximum(*(_spectrum(luma, order) for order in (1, 2)))
    radius = 2 * _FREQUENCIES // min(luma.shape) + 4  # a peak is as wide as the picture is narrow
    if codec == "jpeg":
        grown = _grown_grid(spectrum, radius)
        if grown is not None:
            return 1 / grown, _LEAST_PEAK
    else:
        _silence_squares(spectrum, radius)
    grid = {eighth: _read_peak(spectrum, eighth, 8, radius) for eighth in (1, 2, 3, 4)}
    for eighth, fellows in ((2, (1, 3)), (3, (1, 2)), (4, (2, 3))):
        fellow = max(grid[k] for k in fellows)
        if fellow >= _LEAST_FELLOW and grid[eighth] < _OVER_GRID * fellow:
            place = eighth * _FREQUENCIES // 8
            spectrum[place - radius : place + radius + 1] = 0
    spectrum[: int(_FREQUENCIES / _LARGEST_FACTOR)] = 0
    place = int(np.argmax(spectrum))
    peak = float(spectrum[place])
    neighbour = max(grid[k] for k in (2, 3) if abs(k * _FREQUENCIES // 8 - place) > radius)
    if peak < (_LEAST_PEAK if neighbour > _NO_FELLOW else _FAINT_PEAK):
        return None, 0.0
    if place > 0.4 * _FREQUENCIES:  # it may be the second harmonic of an enlargement twice as large
        half = place // 2
        first = half - radius + int(np.argmax(spectrum[half - radius : half + radius + 1]))
        if spectrum[first] >= _LEAST_PEAK:
            place = first
    return place / _FREQUENCIES, peak


def _silence_squares(spectrum: Spectrum, radius: int) -> None:
    """Take out what squares of 4 pixels leave: at a quarter, and at a half unless that is much stronger."""
    quarter, half = _FREQUENCIES // 4, _FREQUENCIES // 2
    if _read_peak(spectrum, 2, 4, radius) < _OVER_GRID * _read_peak(spectrum, 1, 4, radius):
        spectrum[half - radius : half + radius + 1] = 0
    spectrum[quarter - radius : quarter + radius + 1] = 0


def _spectrum(luma: Luma, order: int) -> Spectrum:
    """Spectrum of the mean difference of each column, and of each row: both must agree."""
    spectra = []
    for plane in (luma, luma.T):
        means = np.minimum(np.abs(np.diff(plane, n=order, axis=1)), 20).mean(axis=0)
        means = means - (ndimage.median_filter(means, 9) if order == 2 else ndimage.uniform_filter1d(means, 8))
        spectrum = np.abs(np.fft.rfft(means * np.hanning(len(means)), _FREQUENCIES))
        spectra.append(spectrum / max(float(np.median(spectrum[_FREQUENCIES // 16 :])), 1e-9))
    result: Spectrum = np.sqrt(spectra[0] * spectra[1])
    return result


def _grown_grid(spectrum: Spectrum, radius: int) -> int | None:
    """4 or 2 where compression's grid of 8 pixels has become one of 32 or 16."""
    for factor in (4, 2):
        cells = 8 * factor
        odd = (cells // 4 - 1, cells // 4 + 1)  # which a smaller grid has nothing at
        if min(_read_peak(spectrum, k, cells, radius) for k in odd) >= _LEAST_PEAK:
            return factor
    return None


def _read_peak(spectrum: Spectrum, fraction: int, of: int, radius: int) -> float:
    place = fraction * _FREQUENCIES // of
    return float(spectrum[place - radius : place + radius + 1].max())


def _straight_between(luma: Luma, factor: float) -> bool:
    """Whether second differences come at every ``factor``-th pixel only, as bilinear interpolation has it."""
    depths = []
    for plane in (luma, luma.T):
        bends = np.abs(np.diff(plane, n=2, axis=1)).mean(axis=0)
        bends *= np.hanning(len(bends))
        wave = np.exp(-2j * np.pi / factor * np.arange(len(bends)))
        depths.append(2 * abs((bends * wave).sum()) / max(float(bends.sum()), 1e-9))
    return bool(np.sqrt(depths[0] * depths[1]) > np.interp(factor, _FACTORS, _STRAIGHT))
