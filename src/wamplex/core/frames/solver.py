"""The most probable picture, given all frames and what is expected of it (maximum a posteriori).

The minimum of the squared differences between what frames saw and would have seen, weighted by their noise, plus the
squared difference from what is expected, weighted by how far it may err (Hardie et al. 1997). Chebyshev's iteration
has fixed coefficients, so that a pixel depends on its neighbourhood alone (Golub and Varga 1961; Saad 2003, 12.3.2).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.progress import Progress
from wamplex.core.frames.sampling import Planes, Sampler, convolve

# Where the eigenvalues of the preconditioned system lie. Below that is what frames hardly know: it comes last.
_MIN_EIGENVALUE, _MAX_EIGENVALUE = 0.03, 1.1


@dataclass(frozen=True, eq=False)
class Samples:
    """What one frame saw of the picture.

    Attributes
    ----------
    sampler : where
    values : (n, C) float32, in levels
    weights : (n, 1) float32, inverse variance in levels; 0 where the frame is not to be trusted
    """

    sampler: Sampler
    values: Planes
    weights: NDArray[np.float32]


def solve(
    expected: Planes,
    freedom: NDArray[np.float32],
    frames: Sequence[Samples],
    kernel: NDArray[np.float32],
    steps: int,
    progress: Progress | None = None,
) -> Planes:
    """Bring what is expected to what the frames saw.

    Parameters
    ----------
    expected : (H, W, C) float32 in levels, channels that vary independently: one frame's enlargement
    freedom : (H, W, 1) float32, standard deviation of its error, in levels
    frames : what was seen
    kernel : blur of a frame along one axis
    steps : of the iteration; each brings the picture nearer to what the frames say, in the end to their noise too
    progress : cancelling it raises `Cancelled`

    Returns
    -------
    The picture, (H, W, C) float32 in levels.

    Raises
    ------
    Cancelled : when ``progress`` is cancelled
    """
    progress = progress or Progress()
    prior: Planes = np.reciprocal(np.square(freedom))
    preconditioner: Planes = np.reciprocal(_density(frames, kernel, expected.shape) + prior)
    blurred = convolve(expected, kernel)
    unexplained = [f.weights * (f.values - f.sampler.sample(blurred)) for f in frames]
    residual: Planes = _seen_back(frames, unexplained, kernel, expected.shape)
    middle, half = (_MAX_EIGENVALUE + _MIN_EIGENVALUE) / 2, (_MAX_EIGENVALUE - _MIN_EIGENVALUE) / 2
    ratio = half / middle
    towards: Planes = preconditioner * residual / np.float32(middle)
    change = towards
    for _ in range(steps - 1):
        progress.check()
        blurred = convolve(towards, kernel)
        answer = _seen_back(frames, [f.weights * f.sampler.sample(blurred) for f in frames], kernel, expected.shape)
        residual = residual - answer - prior * towards
        following = 1 / (2 * middle / half - ratio)
        again, onward = np.float32(following * ratio), np.float32(2 * following / half)
        towards = again * towards + onward * (preconditioner * residual)
        change = change + towards
        ratio = following
    return expected + change


def _seen_back(
    frames: Sequence[Samples], values: list[Planes], kernel: NDArray[np.float32], shape: tuple[int, ...]
) -> Planes:
    """The transpose of seeing, summed over all frames."""
    height, width = shape[:2]
    back = np.zeros(shape, np.float32)
    for frame, value in zip(frames, values, strict=True):
        back += frame.sampler.scatter(value, height, width)
    return convolve(back, kernel)


def _density(frames: Sequence[Samples], kernel: NDArray[np.float32], shape: tuple[int, ...]) -> Planes:
    """How much the frames weigh in all at each place; nothing of them weighs more in any direction."""
    height, width = shape[:2]
    weights = np.zeros((height, width, 1), np.float32)
    for frame in frames:
        weights += frame.sampler.scatter(frame.weights, height, width)
    return np.maximum(convolve(weights, kernel), 0)
