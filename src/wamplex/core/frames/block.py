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
_MIN_FREEDOM, _FREEDOM_OF_DETAIL = 3.0, 1.5
_DETAIL_PX, _AROUND_PX = 0.75, 1.0  # in pixels of the source
_COLOUR_FREEDOM = 0.6  # colour differences are known better than lightness
# Each step brings the picture nearer to what the frames say, in the end nearer to their noise as well.
_LUMA_STEPS, _COLOUR_STEPS = 8, 4
_RIM_PX = 4  # of a block, in source pixels, where others predict less well
_INSIDE, _TRUSTED = 0.99, 0.5
_BEYOND_PX = 2  # of a frame's pixels, on each side of the block


@dataclass(frozen=True, eq=False)
class Frame:
    """A frame and how it lies over the reference.

    Attributes
    ----------
    pixels : (H, W, C) in the depth of the file, in the profile of the reference
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
    freedom: Planes = np.float32(_MIN_FREEDOM) + np.float32(_FREEDOM_OF_DETAIL) * around
    return freedom[..., np.newaxis]


def join_block(
    expected: Planes,
    place: Window,
    frames: Sequence[Frame],
    factor: int,
    blur_px: float,
    progress: Progress | None = None,
) -> Planes:
    """Join the frames where they see a block.

    Parameters
    ----------
    expected : (f h, f w, C) float32 in levels: the reference's enlargement in the block
    place : of the block, in pixels of the reference
    frames : the reference among them
    factor : f, enlargement
    blur_px : standard deviation of the lens's blur, in pixels of the frames
    progress : cancelling it raises `Cancelled`

    Returns
    -------
    (f h, f w, C) float32 in levels.
    """
    block = _Block.of(expected, place, factor, blur_px)
    seen = [view for view in (block.seen_by(frame) for frame in frames) if view is not None]
    start, freedom, kernel = block.expected, block.freedom, block.kernel
    joined = [solve(start[..., :1], freedom, [view.of_luma for view in seen], kernel, _LUMA_STEPS, progress)]
    if start.shape[2] > 1:
        colours = [view.of_colours for view in seen]
        joined.append(
            solve(start[..., 1:], freedom * np.float32(_COLOUR_FREEDOM), colours, kernel, _COLOUR_STEPS, progress)
        )
    return from_differences(np.concatenate(joined, axis=2))


def prediction_errors(
    expected: Planes, place: Window, frames: Sequence[Frame], left_out: Frame, factor: int, blur_px: float
) -> NDArray[np.float64]:
    """What a frame saw of a block, less what the others predict of it.

    Parameters
    ----------
    expected, place, frames, factor, blur_px : see `join_block`
    left_out : the frame that is predicted

    Returns
    -------
    (n, C) float64 in levels, luma first, then colour differences; inside the block and where the frame is trusted.
    """
    view = _Block.of(expected, place, factor, blur_px).seen_by(left_out)
    if view is None:
        return np.zeros((0, expected.shape[2]))
    joined = join_block(expected, place, frames, factor, blur_px)
    predicted = view.sampler.sample(convolve(to_differences(joined), pixel_kernel(factor, blur_px)))
    inside = np.zeros((*expected.shape[:2], 1), np.float32)
    rim = _RIM_PX * factor
    inside[rim:-rim, rim:-rim] = 1
    usable = (view.sampler.sample(inside)[:, 0] > _INSIDE) & (view.trust[:, 0] > _TRUSTED)
    return (view.values - predicted)[usable].astype(np.float64)


@dataclass(frozen=True, eq=False)
class _View:
    """What a frame saw of a block.

    Attributes
    ----------
    values : (n, C) float32, luma first
    trust : (n, 1) float32, 0 to 1
    """

    frame: Frame
    sampler: Sampler
    values: Planes
    trust: NDArray[np.float32]

    @property
    def of_luma(self) -> Samples:
        return Samples(self.sampler, self.values[:, :1], self.trust / np.float32(self.frame.deviation**2))

    @property
    def of_colours(self) -> Samples:
        return Samples(self.sampler, self.values[:, 1:], self.trust / np.float32(self.frame.colour_deviation**2))


@dataclass(frozen=True, eq=False)
class _Block:
    """A block of the enlargement, with all that is the same for every frame.

    Attributes
    ----------
    place : in pixels of the reference
    expected : (H, W, C) float32 in levels, luma first, then colour differences
    freedom : (H, W, 1) float32, how far it may err
    predicted : (H, W, 2) float32, its luma and freedom, blurred as a frame sees them
    """

    place: Window
    factor: int
    kernel: NDArray[np.float32]
    expected: Planes
    freedom: NDArray[np.float32]
    predicted: Planes

    @staticmethod
    def of(expected: Planes, place: Window, factor: int, blur_px: float) -> _Block:
        kernel, start = pixel_kernel(factor, blur_px), to_differences(expected)
        freedom = freedom_of(start[..., 0], factor)
        predicted = convolve(np.concatenate([start[..., :1], freedom], axis=2), kernel)
        return _Block(place, factor, kernel, start, freedom, predicted)

    def seen_by(self, frame: Frame) -> _View | None:
        """What a frame saw of it; None where it saw nothing."""
        window = _seen_window(frame, self.place)
        if window is None:
            return None
        rows, columns = np.mgrid[window.y : window.bottom, window.x : window.right].astype(np.float64)
        x, y = move(inverse(frame.motion), columns, rows)
        # In pixels of the enlargement; pixel centres lie half a pixel inside.
        x, y = (self.factor * (n + 0.5 - start) - 0.5 for n, start in ((x, self.place.x), (y, self.place.y)))
        height, width = self.expected.shape[:2]
        inside = (x > -0.5) & (y > -0.5) & (x < width - 0.5) & (y < height - 0.5)
        if not inside.any():
            return None
        sampler = Sampler.at(x.ravel(), y.ravel(), width, height)
        values = to_differences(frame.levels(window))
        trust = inside.astype(np.float32)
        if not frame.is_reference:
            predicted = sampler.sample(self.predicted).reshape(*values.shape[:2], -1)
            trust *= reliability(values[..., 0], predicted[..., 0], predicted[..., 1], frame.deviation)
        return _View(frame, sampler, values.reshape(-1, values.shape[2]), trust.reshape(-1, 1))


def _seen_window(frame: Frame, place: Window) -> Window | None:
    """The frame's pixels that may lie in the block."""
    corners_x = np.array([place.x, place.right - 1, place.x, place.right - 1], np.float64)
    corners_y = np.array([place.y, place.y, place.bottom - 1, place.bottom - 1], np.float64)
    x, y = move(frame.motion, corners_x, corners_y)
    height, width = frame.pixels.shape[:2]
    left, top = (max(int(np.floor(n.min())) - _BEYOND_PX, 0) for n in (x, y))
    right = min(int(np.ceil(x.max())) + _BEYOND_PX + 1, width)
    bottom = min(int(np.ceil(y.max())) + _BEYOND_PX + 1, height)
    return Window(left, top, right - left, bottom - top) if right > left and bottom > top else None
