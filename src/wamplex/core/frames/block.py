"""Joins the frames in one block of the picture."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.filters import gaussian
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.frames.colour_differences import from_differences, to_differences
from wamplex.core.frames.motion import Homography, inverse, move
from wamplex.core.frames.reliability import reliability
from wamplex.core.frames.sampling import Planes, Sampler, convolve, pixel_kernel
from wamplex.core.frames.solver import Samples, solve

# How far what is expected may err, in levels: little in even places, more where there is detail.
_LEAST_FREEDOM, _FREEDOM_OF_DETAIL = 3.0, 1.5
_DETAIL_PX, _AROUND_PX = 0.75, 1.0  # in pixels of the source
_COLOUR_FREEDOM = 0.6  # colour differences are known better than lightness
# Each step brings the picture nearer to what the frames say, in the end nearer to their noise as well.
_LUMA_STEPS, _COLOUR_STEPS = 8, 4
_RIM_PX = 4  # of a block, in source pixels, where others predict less well
_BEYOND_PX = 2  # of a frame's pixels, on each side of the block


@dataclass(frozen=True, eq=False)
class Frame:
    """A frame and how it lies over the reference.

    Attributes
    ----------
    pixels : (H, W, C) uint8, uint16 or float32, in the profile of the reference
    white : largest value of the pixels
    motion : (3, 3), from pixels of the reference to pixels of this frame
    gains, offsets : by channel, in levels: the frame is the reference times the gain, plus the offset
    deviation, colour_deviation : of its noise in luma and in colour differences, in levels
    is_reference : it is trusted everywhere
    """

    pixels: NDArray[np.uint8 | np.uint16]
    white: float
    motion: Homography
    gains: tuple[float, ...]
    offsets: tuple[float, ...]
    deviation: float
    colour_deviation: float
    is_reference: bool = False

    def levels(self, window: Window) -> Planes:
        """Pixels of a window in levels at the exposure of the reference: (h, w, C) float32."""
        part: Planes = self.pixels[window.y : window.bottom, window.x : window.right].astype(np.float32)
        part *= np.float32(255 / self.white)
        part -= np.asarray(self.offsets, np.float32)
        part /= np.asarray(self.gains, np.float32)
        return part


def freedom_of(luma: NDArray[np.float32], factor: int) -> NDArray[np.float32]:
    """How far an enlargement may err.

    Parameters
    ----------
    luma : (H, W) float32, of the enlargement, in levels
    factor : of the enlargement

    Returns
    -------
    (H, W, 1) float32, standard deviation in levels.
    """
    detail = luma - gaussian(luma, _DETAIL_PX * factor)
    around = np.sqrt(np.maximum(gaussian(detail * detail, _AROUND_PX * factor), 0))
    freedom: Planes = np.float32(_LEAST_FREEDOM) + np.float32(_FREEDOM_OF_DETAIL) * around
    return freedom[..., np.newaxis]


def join_block(
    expected: Planes,
    block: Window,
    frames: Sequence[Frame],
    factor: int,
    blur_px: float,
    progress: Progress | None = None,
) -> tuple[Planes, NDArray[np.float32]]:
    """Join the frames where they see a block.

    Parameters
    ----------
    expected : (f h, f w, C) float32 in levels: the reference's enlargement in the block
    block : in pixels of the reference
    frames : the reference among them
    factor : f, enlargement
    blur_px : standard deviation of the lens's blur, in pixels of the frames
    progress : cancelling it raises `Cancelled`

    Returns
    -------
    joined : (f h, f w, C) float32 in levels
    share : (f h, f w) float32, how many frames were trusted there
    """
    kernel = pixel_kernel(factor, blur_px)
    start = to_differences(expected)
    freedom = freedom_of(start[..., 0], factor)
    samples = [s for s in (_samples(f, start, freedom, block, factor, kernel) for f in frames) if s is not None]
    joined = [solve(start[..., :1], freedom, [s.of_luma for s in samples], kernel, _LUMA_STEPS, progress)]
    if start.shape[2] > 1:
        lesser = freedom * np.float32(_COLOUR_FREEDOM)
        colours = [s.of_colours for s in samples]
        joined.append(solve(start[..., 1:], lesser, colours, kernel, _COLOUR_STEPS, progress))
    return from_differences(np.concatenate(joined, axis=2)), _frames_at(samples, expected.shape, factor)


def unexplained(
    expected: Planes, block: Window, frames: Sequence[Frame], left_out: Frame, factor: int, blur_px: float
) -> NDArray[np.float64]:
    """What a frame saw of a block, less what the others predict of it.

    Parameters
    ----------
    expected, block, frames, factor, blur_px : see `join_block`
    left_out : the frame that is predicted

    Returns
    -------
    (n, C) float64 in levels, luma first, then colour differences; inside the block and where it is trusted.
    """
    joined, _ = join_block(expected, block, frames, factor, blur_px)
    kernel, start = pixel_kernel(factor, blur_px), to_differences(expected)
    seen = _samples(left_out, start, freedom_of(start[..., 0], factor), block, factor, kernel)
    if seen is None:
        return np.zeros((0, expected.shape[2]))
    inner = _inner(expected.shape, _RIM_PX * factor)
    within = seen.sampler.sample(inner)[:, 0] > 0.99
    usable = within & (seen.trust[:, 0] > 0.5)
    predicted = seen.sampler.sample(convolve(to_differences(joined), kernel))
    return (seen.values - predicted)[usable].astype(np.float64)


def _inner(shape: tuple[int, ...], rim: int) -> Planes:
    """1 inside the rim, 0 on it."""
    inside = np.zeros((*shape[:2], 1), np.float32)
    inside[rim:-rim, rim:-rim] = 1
    return inside


@dataclass(frozen=True, eq=False)
class _Seen:
    """What a frame saw of a block."""

    frame: Frame
    sampler: Sampler
    values: Planes  # (n, C), luma first
    trust: NDArray[np.float32]  # (n, 1), 0..1

    @property
    def of_luma(self) -> Samples:
        return Samples(self.sampler, self.values[:, :1], self.trust / np.float32(self.frame.deviation**2))

    @property
    def of_colours(self) -> Samples:
        weights = self.trust / np.float32(self.frame.colour_deviation**2)
        return Samples(self.sampler, np.ascontiguousarray(self.values[:, 1:]), weights)


def _samples(
    frame: Frame,
    expected: Planes,
    freedom: NDArray[np.float32],
    block: Window,
    factor: int,
    kernel: NDArray[np.float32],
) -> _Seen | None:
    """What a frame saw of the block; None where it saw nothing of it."""
    seen = _seen_window(frame, block)
    if seen is None:
        return None
    rows, columns = np.mgrid[seen.y : seen.bottom, seen.x : seen.right].astype(np.float64)
    x, y = move(inverse(frame.motion), columns, rows)
    # In pixels of the block's enlargement, whose corner is half a pixel up and left of its first pixel's centre.
    x, y = (factor * (n + 0.5 - start) - 0.5 for n, start in ((x, block.x), (y, block.y)))
    height, width = expected.shape[:2]
    inside = (x > -0.5) & (y > -0.5) & (x < width - 0.5) & (y < height - 0.5)
    if not inside.any():
        return None
    sampler = Sampler.at(x.ravel(), y.ravel(), width, height)
    values = to_differences(frame.levels(seen))
    trust = inside.astype(np.float32)
    if not frame.is_reference:
        blurred = convolve(np.concatenate([expected[..., :1], freedom], axis=2), kernel)
        predicted = sampler.sample(blurred).reshape(*values.shape[:2], -1)
        trust *= reliability(values[..., 0], predicted[..., 0], predicted[..., 1], frame.deviation)
    return _Seen(frame, sampler, values.reshape(-1, values.shape[2]), trust.reshape(-1, 1))


def _seen_window(frame: Frame, block: Window) -> Window | None:
    """The frame's pixels that may lie in the block."""
    corners_x = np.array([block.x, block.right - 1, block.x, block.right - 1], np.float64)
    corners_y = np.array([block.y, block.y, block.bottom - 1, block.bottom - 1], np.float64)
    x, y = move(frame.motion, corners_x, corners_y)
    height, width = frame.pixels.shape[:2]
    left, top = (max(int(np.floor(n.min())) - _BEYOND_PX, 0) for n in (x, y))
    right = min(int(np.ceil(x.max())) + _BEYOND_PX + 1, width)
    bottom = min(int(np.ceil(y.max())) + _BEYOND_PX + 1, height)
    return Window(left, top, right - left, bottom - top) if right > left and bottom > top else None


def _frames_at(samples: Sequence[_Seen], shape: tuple[int, ...], factor: int) -> NDArray[np.float32]:
    """About how many frames were trusted at each place."""
    height, width = shape[:2]
    total = np.zeros((height, width, 1), np.float32)
    for frame in samples:
        total += frame.sampler.scatter(frame.trust, height, width)
    share: NDArray[np.float32] = gaussian(total[..., 0] * np.float32(factor * factor), float(factor))
    return share
