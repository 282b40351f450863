"""Fits the frames of a scene once: motion, exposure and noise."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.filters import block_means, gaussian
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.luma import luma_plane
from wamplex.core.frames.align import Alignment, AlignmentReference, align
from wamplex.core.frames.block import Frame, prediction_errors
from wamplex.core.frames.concert import enlarge_alone
from wamplex.core.frames.exposure import ExposureReference
from wamplex.core.frames.frame_files import obstacle, reference_frame, relative_file, stored_pixels
from wamplex.core.frames.motion import Homography, move
from wamplex.core.model.frame_set import MAX_FRAMES, FrameRef, FrameSet
from wamplex.core.model.picture import Picture
from wamplex.core.model.upscale_values import Values

_FACTOR = 2  # that noise is measured at
_MIN_CORRELATION = 0.8  # correlation below which a frame shows another scene
_MIN_SHARPNESS = 0.7  # of the finest structure of the reference
# The blur of a good lens. Frames cannot tell it, since all share it; more is only what is measured as softness, for
# too much of it rings, and too little is merely less crisp.
_LENS_PX = 0.32
_TILE_PX, _TILES, _MARGIN_PX = 56, 4, 8
_STRONGEST, _USUAL = 0.98, 0.97  # quantiles
_ALIGNING = 0.7  # of the time
_WHITE = np.float32(255)
_FIRST_DEVIATION, _MIN_DEVIATION = 2.5, 1.0


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

    @property
    def joined(self) -> tuple[FrameFit, ...]:
        """The frames that are used."""
        return tuple(frame for frame in self.frames if frame.refused is None)

    @property
    def left_out(self) -> tuple[str, ...]:
        """Why each of the others is not used, in words."""
        return tuple(f"{frame.path.name} {frame.refused}" for frame in self.frames if frame.refused is not None)


def fit_frames(
    reference: Picture,
    files: Sequence[Path],
    read: Callable[[Path], Picture],
    values: Values | None = None,
    softness_px: float = 0.0,
    progress: Progress | None = None,
) -> SceneFit:
    """Align further frames to a picture, and measure exposure and noise.

    Parameters
    ----------
    reference : decoded from a file
    files : the further frames
    read : decodes one of them, developed as the reference is; one is decoded at a time
    values : what Mender cleans of the reference's enlargement before frames are joined
    softness_px : blur that was measured in the reference, in its pixels, beyond that of a good lens
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    For the recipe, and what became of each frame.

    Raises
    ------
    UnreadablePictureError : when a file cannot be read
    Cancelled : when ``progress`` is cancelled
    """
    progress = progress or Progress()
    scene = _Scene(reference)
    for number, path in enumerate(files):
        progress.report(_ALIGNING * number / len(files), "aligning frames")
        scene.add(path, read(path), progress)
    if not scene.refs:
        return SceneFit(None, tuple(scene.fits))
    progress.report(_ALIGNING, "measuring noise")
    blur_px = round(math.hypot(_LENS_PX, softness_px), 3)
    deviation, colour_deviation = scene.noise(values or Values(), blur_px, progress)
    frame_set = FrameSet(
        frames=tuple(scene.refs), blur_px=blur_px, deviation=deviation, colour_deviation=colour_deviation
    )
    progress.report(1.0, "frames are aligned")
    return SceneFit(frame_set, tuple(scene.fits))


class _Scene:
    """The frames that were aligned up to now."""

    def __init__(self, reference: Picture) -> None:
        self.fits: list[FrameFit] = []
        self.refs: list[FrameRef] = []
        self._reference = reference
        self._luma = luma_plane(reference.pixels) * _WHITE
        self._aligned_to = AlignmentReference(self._luma)
        self._exposed_as = ExposureReference(reference.pixels * _WHITE)
        self._frames = [reference_frame(reference, _FIRST_DEVIATION, _FIRST_DEVIATION)]

    def add(self, path: Path, picture: Picture, progress: Progress) -> None:
        """Align a frame, or refuse it."""
        against = obstacle(picture, self._reference)
        if against is None and len(self.refs) >= MAX_FRAMES:
            against = f"is one too many: {MAX_FRAMES + 1} frames can be joined"
        if against is None:
            luma = luma_plane(picture.pixels) * _WHITE
            aligned = align(self._aligned_to, luma, progress)
            against = self._unlike(aligned, luma)
        if against is not None:
            self.fits.append(FrameFit(path, against))
            return
        gains, offsets = self._exposed_as.exposure(picture.pixels * _WHITE, aligned.motion)
        frame = Frame(*stored_pixels(picture), aligned.motion, gains, offsets, _FIRST_DEVIATION, _FIRST_DEVIATION)
        self._frames.append(frame)
        self.refs.append(_ref(self._reference, picture, frame))
        self.fits.append(FrameFit(path, None, _moved_px(aligned.motion, picture)))

    def _unlike(self, aligned: Alignment, luma: NDArray[np.float32]) -> str | None:
        if aligned.correlation < _MIN_CORRELATION:
            return "shows another scene"
        if _sharpness(luma) < _MIN_SHARPNESS * _sharpness(self._luma) * aligned.gain:
            return "is too blurred"
        return None

    def noise(self, values: Values, blur_px: float, progress: Progress) -> tuple[float, float]:
        """How far a frame that is left out lies from what the others predict, in luma and in colour differences."""
        alone = enlarge_alone(self._reference, _FACTOR, values)
        left_out = self._frames[len(self._frames) // 2]
        others = [frame for frame in self._frames if frame is not left_out]
        errors = list[NDArray[np.float64]]()
        for tile in _tiles(self._luma):
            progress.check()
            enlarged = alone.render(tile.enlarged(_FACTOR), progress) * _WHITE
            errors.append(prediction_errors(enlarged, tile, others, left_out, _FACTOR, blur_px))
        by_channel = np.concatenate(errors)
        colours = by_channel[:, 1:] if by_channel.shape[1] > 1 else by_channel
        return _noise_deviation(by_channel[:, :1]), _noise_deviation(colours)


def _moved_px(motion: Homography, picture: Picture) -> tuple[float, float]:
    """How far the middle has moved."""
    x, y = (picture.width - 1) / 2, (picture.height - 1) / 2
    moved_x, moved_y = move(motion, np.array(x), np.array(y))
    return float(moved_x - x), float(moved_y - y)


def _sharpness(luma: NDArray[np.float32]) -> float:
    """Strength of structure of one to two pixels, where it is strongest; noise is finer."""
    return float(np.quantile(_structure(luma), _STRONGEST))


def _structure(luma: NDArray[np.float32]) -> NDArray[np.float32]:
    band: NDArray[np.float32] = np.abs(gaussian(luma, 0.8) - gaussian(luma, 1.6))
    return band


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


def _noise_deviation(errors: NDArray[np.float64]) -> float:
    """Without the largest few: edges err more than noise, and both count."""
    if errors.size == 0:  # nothing could be compared
        return _FIRST_DEVIATION
    squares = errors**2
    deviation = float(np.sqrt(np.mean(np.minimum(squares, np.quantile(squares, _USUAL)))))
    return round(max(deviation, _MIN_DEVIATION), 3)


def _tiles(luma: NDArray[np.float32]) -> list[Window]:
    """A few places with much structure."""
    height, width = luma.shape
    side = min(_TILE_PX, height - 2 * _MARGIN_PX, width - 2 * _MARGIN_PX)
    if side < _MARGIN_PX:
        return [Window(0, 0, width, height)]
    means = block_means(_structure(luma)[_MARGIN_PX:-_MARGIN_PX, _MARGIN_PX:-_MARGIN_PX], side)
    strongest = np.argsort(-means, axis=None, kind="stable")[:_TILES]
    places = [divmod(int(place), means.shape[1]) for place in strongest]
    return [Window(_MARGIN_PX + column * side, _MARGIN_PX + row * side, side, side) for row, column in places]
