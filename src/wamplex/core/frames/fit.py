"""Fits the frames of a scene once: motion, exposure and noise."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.filters import gaussian
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.luma import luma_plane
from wamplex.core.frames.align import Alignment, align
from wamplex.core.frames.block import Frame, unexplained
from wamplex.core.frames.exposure import exposure
from wamplex.core.frames.frame_files import obstacle, relative_file, stored_pixels
from wamplex.core.frames.motion import identity
from wamplex.core.model.frame_set import MOST_FRAMES, FrameRef, FrameSet
from wamplex.core.model.picture import Picture
from wamplex.core.model.upscale_values import Values
from wamplex.core.upscale.stages.stage import SourceStage, Stage
from wamplex.core.upscale.upscalers.mender import MENDER

_FACTOR = 2  # that noise is measured at
_LEAST_ALIKE = 0.8  # correlation below which a frame shows another scene
_LEAST_SHARP = 0.7  # of the finest structure of the reference
# The blur of a good lens. Frames cannot tell it, since all share it; more is only what is measured as softness, for
# too much of it rings, and too little is merely less crisp.
_LENS_PX = 0.32
_TILE_PX, _TILES, _MARGIN_PX = 56, 4, 8
_FIRST_DEVIATION, _LEAST_DEVIATION = 2.5, 1.0


@dataclass(frozen=True)
class FrameFit:
    """What became of one frame.

    Attributes
    ----------
    path : its file
    refused : why it is not used; None when it is
    moved_px : how far its middle lies from the reference's, across and down; (0, 0) when it is not used
    """

    path: Path
    refused: str | None
    moved_px: tuple[float, float] = (0.0, 0.0)


@dataclass(frozen=True)
class SceneFit:
    """The frames of a scene, fitted.

    Attributes
    ----------
    frame_set : for the recipe; None when no further frame can be used
    frames : what became of each
    """

    frame_set: FrameSet | None
    frames: tuple[FrameFit, ...]


def fit_frames(
    reference: Picture,
    others: Sequence[Picture],
    values: Values | None = None,
    softness_px: float = 0.0,
    progress: Progress | None = None,
) -> SceneFit:
    """Align further frames to a picture, and measure exposure and noise.

    Parameters
    ----------
    reference : decoded from a file
    others : decoded further frames, each from a file
    values : what Mender cleans of the reference's enlargement before frames are joined
    softness_px : blur that was measured in the reference, in its pixels, beyond that of a good lens
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    For the recipe, and what became of each frame.

    Raises
    ------
    Cancelled : when ``progress`` is cancelled
    """
    progress = progress or Progress()
    luma = luma_plane(reference.pixels) * np.float32(255)
    fits, frames, refs = list[FrameFit](), list[Frame](), list[FrameRef]()
    for number, other in enumerate(others):
        progress.report(0.7 * number / len(others), "aligning frames")
        fit, frame = _fit_one(reference, luma, other, len(frames), progress)
        fits.append(fit)
        if frame is not None:
            frames.append(frame)
            refs.append(_ref(reference, other, frame))
    if not frames:
        return SceneFit(None, tuple(fits))
    progress.report(0.7, "measuring noise")
    pixels, white = stored_pixels(reference)
    plain = (1.0,) * pixels.shape[2], (0.0,) * pixels.shape[2]
    first = Frame(pixels, white, identity(), *plain, _FIRST_DEVIATION, _FIRST_DEVIATION, is_reference=True)
    blur_px = round(math.hypot(_LENS_PX, softness_px), 3)
    noise = _noise([first, *frames], luma, _alone(reference, values or Values()), blur_px, progress)
    found = FrameSet(frames=tuple(refs), blur_px=blur_px, deviation=noise[0], colour_deviation=noise[1])
    progress.report(1.0, "frames are aligned")
    return SceneFit(found, tuple(fits))


def _alone(reference: Picture, values: Values) -> Stage:
    """The reference's own enlargement."""
    cleaned = values.replace(blur=0.0, keep_source=0.0, crispness=0.0)
    return MENDER.chain(SourceStage(reference), reference.width * _FACTOR, reference.height * _FACTOR, cleaned)


def _fit_one(
    reference: Picture, luma: NDArray[np.float32], other: Picture, used: int, progress: Progress
) -> tuple[FrameFit, Frame | None]:
    assert other.path is not None
    against = obstacle(other, reference)
    if against is None and used >= MOST_FRAMES:
        against = f"is one too many: {MOST_FRAMES + 1} frames can be joined"
    if against is not None:
        return FrameFit(other.path, against), None
    seen = luma_plane(other.pixels) * np.float32(255)
    aligned = align(luma, seen, progress)
    against = _unlike(aligned, luma, seen)
    if against is not None:
        return FrameFit(other.path, against), None
    white = np.float32(255)
    gains, offsets = exposure(reference.pixels * white, other.pixels * white, aligned.motion)
    frame = Frame(*stored_pixels(other), aligned.motion, gains, offsets, _FIRST_DEVIATION, _FIRST_DEVIATION)
    middle = aligned.motion @ [(other.width - 1) / 2, (other.height - 1) / 2, 1.0]
    moved = (middle[0] / middle[2] - (other.width - 1) / 2, middle[1] / middle[2] - (other.height - 1) / 2)
    return FrameFit(other.path, None, (float(moved[0]), float(moved[1]))), frame


def _unlike(aligned: Alignment, luma: NDArray[np.float32], seen: NDArray[np.float32]) -> str | None:
    if aligned.correlation < _LEAST_ALIKE:
        return "shows another scene"
    if _sharpness(seen) < _LEAST_SHARP * _sharpness(luma) * aligned.gain:
        return "is too blurred"
    return None


def _sharpness(luma: NDArray[np.float32]) -> float:
    """Strength of structure of one to two pixels, where it is strongest; noise is finer."""
    band = np.abs(gaussian(luma, 0.8) - gaussian(luma, 1.6))
    return float(np.quantile(band, 0.98))


def _ref(reference: Picture, other: Picture, frame: Frame) -> FrameRef:
    assert reference.path is not None
    assert other.source is not None
    return FrameRef(
        file=relative_file(other.source.path, reference.path),
        digest=other.source.digest,
        motion=tuple(round(float(n), 12) for n in frame.motion.ravel()),
        gains=tuple(round(n, 6) for n in frame.gains),
        offsets=tuple(round(n, 4) for n in frame.offsets),
    )


def _noise(
    frames: list[Frame], luma: NDArray[np.float32], alone: Stage, blur_px: float, progress: Progress
) -> tuple[float, float]:
    """How far a frame that is left out lies from what the others predict, in luma and in colour differences."""
    left_out = frames[1 + (len(frames) - 1) // 2]
    others = [frame for frame in frames if frame is not left_out]
    errors = list[NDArray[np.float64]]()
    for tile in _tiles(luma):
        progress.check()
        enlarged = alone.render(_large(tile), progress) * np.float32(255)
        errors.append(unexplained(enlarged, tile, others, left_out, _FACTOR, blur_px))
    left = np.concatenate(errors)
    colours = left[:, 1:] if left.shape[1] > 1 else left
    luma_deviation, colour_deviation = (
        round(max(_robust_deviation(part), _LEAST_DEVIATION), 3) for part in (left[:, :1], colours)
    )
    return luma_deviation, colour_deviation


def _robust_deviation(values: NDArray[np.float64]) -> float:
    """Between that of the middle and that of all: edges err more than noise, and both count."""
    return float(np.sqrt(np.mean(np.clip(values**2, 0, np.quantile(values**2, 0.97)))))


def _tiles(luma: NDArray[np.float32]) -> list[Window]:
    """A few places with much structure."""
    height, width = luma.shape
    side = min(_TILE_PX, height - 2 * _MARGIN_PX, width - 2 * _MARGIN_PX)
    if side < 8:
        return [Window(0, 0, width, height)]
    strength = np.abs(gaussian(luma, 0.8) - gaussian(luma, 1.6))
    rows, columns = max((height - 2 * _MARGIN_PX) // side, 1), max((width - 2 * _MARGIN_PX) // side, 1)
    inner = strength[_MARGIN_PX : _MARGIN_PX + rows * side, _MARGIN_PX : _MARGIN_PX + columns * side]
    means = inner.reshape(rows, side, columns, side).mean(axis=(1, 3))
    best = np.argsort(-means, axis=None, kind="stable")[:_TILES]
    places = [divmod(int(place), columns) for place in best]
    return [Window(_MARGIN_PX + column * side, _MARGIN_PX + row * side, side, side) for row, column in places]


def _large(tile: Window) -> Window:
    return Window(*(n * _FACTOR for n in (tile.x, tile.y, tile.width, tile.height)))
