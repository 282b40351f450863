"""A truth given as a second file: brought to the size and place that the small picture has."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from wamplex.core.errors import SizeError
from wamplex.core.geometry.size import LARGEST_FACTOR
from wamplex.core.known_answer.question import Question
from wamplex.core.lazy import ndimage
from wamplex.core.picture import Picture, Pixels
from wamplex.core.progress import Progress
from wamplex.core.upscale.kernels import CATMULL_ROM
from wamplex.core.upscale.resample import ResampleStage
from wamplex.core.upscale.stage import SourceStage
from wamplex.core.window import Window

# Proportions may differ by this much, as rounding to whole pixels makes them.
_LARGEST_STRETCH = 0.02
_LARGEST_SHIFT_SOURCE_PX = 4.0
# Least correlation of the two before they are moved.
_LEAST_MATCH = 0.3
_REFINEMENTS = 6


def question_from_truth(small: Picture, truth: Picture) -> Question:
    """The question that a small picture and its large original make.

    The factor follows from the sizes. The shift between them is found by phase correlation (Kuglin and Hines
    1975), then to fractions of a pixel by least squares, and taken out of the truth.

    Raises
    ------
    SizeError : when the files cannot be a picture and its original
    """
    across, down = truth.width / small.width, truth.height / small.height
    if abs(across / down - 1) > _LARGEST_STRETCH:
        raise SizeError(
            f"{truth.width} × {truth.height} px has other proportions than {small.width} × "
            f"{small.height} px. The truth must show the same part of the picture."
        )
    if not 1 < across <= LARGEST_FACTOR:
        raise SizeError(
            f"The truth is {across:.2f} times as wide as the picture; more than 1 and at most "
            f"{LARGEST_FACTOR:g} times is needed."
        )
    if truth.pixels.shape[2] != small.pixels.shape[2]:
        raise SizeError("One of the two files is grey and the other is in colour.")
    width, height = round(small.width * across), round(small.height * across)
    if (width, height) == (truth.width, truth.height):
        pixels = truth.pixels
    else:
        stage = ResampleStage(SourceStage(replace(truth, alpha=None)), width, height, CATMULL_ROM)
        pixels = np.clip(stage.render(Window(0, 0, width, height), Progress()), 0, 1)
    moved = _shift(small, pixels)
    if max(abs(s) for s in moved) > 1e-3:
        pixels = ndimage.shift(pixels, (moved[0] * across, moved[1] * across, 0), order=3, mode="nearest")
        pixels = np.clip(pixels, 0, 1).astype(np.float32)
    known = replace(small, pixels=pixels, alpha=None, source=None)
    shift_words = f"moved by {moved[1] * across:+.2f}, {moved[0] * across:+.2f} px to fit"
    words = f"truth of {truth.width} × {truth.height} px, {shift_words}"
    return Question(
        replace(small, alpha=None), known, across, Window(0, 0, width, height), words, shrunk=False
    )


def _shift(small: Picture, truth: Pixels) -> tuple[float, float]:
    """How far (down, right), in source pixels, the truth must move to fit the small picture."""
    stage = ResampleStage(SourceStage(Picture(truth)), small.width, small.height, CATMULL_ROM)
    shrunk = stage.render(Window(0, 0, small.width, small.height), Progress())
    one, other = (_windowed(p.mean(axis=2)) for p in (small.pixels, shrunk))
    if float((one * other).sum()) < _LEAST_MATCH * float(np.sqrt((one**2).sum() * (other**2).sum())):
        raise SizeError("The two files do not show the same picture.")
    cross = np.fft.rfft2(one) * np.conj(np.fft.rfft2(other))
    surface = np.fft.irfft2(cross / (np.abs(cross) + 1e-12), one.shape)
    reach = int(_LARGEST_SHIFT_SOURCE_PX)
    near = np.roll(surface, (reach, reach), (0, 1))[: 2 * reach + 1, : 2 * reach + 1]
    row, column = (int(i) for i in np.unravel_index(int(near.argmax()), near.shape))
    coarse = np.array([row - reach, column - reach], float)
    return _refined(small.pixels.mean(axis=2), shrunk.mean(axis=2), coarse)


def _windowed(plane: NDArray[np.float32]) -> NDArray[np.float64]:
    """Without its mean and fading to its border, so that the border does not match itself."""
    fade = np.hanning(plane.shape[0])[:, None] * np.hanning(plane.shape[1])[None]
    made: NDArray[np.float64] = (plane - plane.mean()) * fade
    return made


def _refined(
    fixed: NDArray[np.float32], moving: NDArray[np.float32], shift: NDArray[np.float64]
) -> tuple[float, float]:
    """Gauss-Newton steps to the shift with the least squared difference (Lucas and Kanade 1981)."""
    margin = 2 * int(_LARGEST_SHIFT_SOURCE_PX)
    inside = (slice(margin, -margin), slice(margin, -margin))
    for _ in range(_REFINEMENTS):
        moved = ndimage.shift(moving.astype(np.float64), shift, order=3, mode="nearest")
        down, across = (g[inside].ravel() for g in np.gradient(moved))
        slopes = np.stack([down, across], axis=1)
        missing = (fixed - moved)[inside].ravel()
        step, *_ = np.linalg.lstsq(-slopes, missing, rcond=None)
        shift = np.clip(shift + step, -_LARGEST_SHIFT_SOURCE_PX, _LARGEST_SHIFT_SOURCE_PX)
    return float(shift[0]), float(shift[1])
