"""How far two pictures of the same thing lie apart, to fractions of a pixel."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.errors import SizeError
from wamplex.core.base.lazy_imports import ndimage
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture
from wamplex.core.upscale.stages.kernels import CATMULL_ROM
from wamplex.core.upscale.stages.resample import ResampleStage
from wamplex.core.upscale.stages.stage import SourceStage

LARGEST_SHIFT_PX = 4.0
# Least correlation of the two before they are moved.
_LEAST_MATCH = 0.3
_REFINEMENTS = 6
# Of a large picture the middle is compared.
_MOST_SIDE_PX = 1400


def estimate_shift(small: Picture, large: Picture) -> tuple[float, float]:
    """How far the large picture must move to lie as the small one does.

    By phase correlation (Kuglin and Hines 1975), then to fractions of a pixel by least squares (Lucas and
    Kanade 1981).

    Returns
    -------
    Down and to the right, in pixels of the small picture, at most 4 each way.

    Raises
    ------
    SizeError : when they do not show the same
    """
    width, height = (min(n, _MOST_SIDE_PX) for n in (small.width, small.height))
    centre = Window((small.width - width) // 2, (small.height - height) // 2, width, height)
    stage = ResampleStage(SourceStage(large), small.width, small.height, CATMULL_ROM)
    fixed = small.pixels[centre.y : centre.bottom, centre.x : centre.right].mean(axis=2)
    moving = stage.render(centre, Progress()).mean(axis=2)
    one, other = _windowed(fixed), _windowed(moving)
    if float((one * other).sum()) < _LEAST_MATCH * float(np.sqrt((one**2).sum() * (other**2).sum())):
        raise SizeError("The two files do not show the same picture.")
    cross = np.fft.rfft2(one) * np.conj(np.fft.rfft2(other))
    surface = np.fft.irfft2(cross / (np.abs(cross) + 1e-12), one.shape)
    radius = int(LARGEST_SHIFT_PX)
    near = np.roll(surface, (radius, radius), (0, 1))[: 2 * radius + 1, : 2 * radius + 1]
    row, column = (int(i) for i in np.unravel_index(int(near.argmax()), near.shape))
    return _refined(fixed, moving, np.array([row - radius, column - radius], float))


def _windowed(plane: NDArray[np.float32]) -> NDArray[np.float64]:
    """Without its mean and fading to its border, so that the border does not match itself."""
    fade = np.hanning(plane.shape[0])[:, None] * np.hanning(plane.shape[1])[None]
    result: NDArray[np.float64] = (plane - plane.mean()) * fade
    return result


def _refined(
    fixed: NDArray[np.float32], moving: NDArray[np.float32], shift: NDArray[np.float64]
) -> tuple[float, float]:
    """Gauss-Newton steps to the shift with the least squared difference (Lucas and Kanade 1981)."""
    margin = 2 * int(LARGEST_SHIFT_PX)
    inside = (slice(margin, -margin), slice(margin, -margin))
    for _ in range(_REFINEMENTS):
        shifted = ndimage.shift(moving.astype(np.float64), shift, order=3, mode="nearest")
        down, across = (g[inside].ravel() for g in np.gradient(shifted))
        slopes = np.stack([down, across], axis=1)
        missing = (fixed - shifted)[inside].ravel()
        step, *_ = np.linalg.lstsq(-slopes, missing, rcond=None)
        shift = np.clip(shift + step, -LARGEST_SHIFT_PX, LARGEST_SHIFT_PX)
    return float(shift[0]), float(shift[1])
