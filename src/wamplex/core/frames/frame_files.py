"""Reads the further frames of a picture from their files."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.errors import RecipeError, SourceChangedError
from wamplex.core.base.lru_cache import LruCache
from wamplex.core.frames.block import Frame
from wamplex.core.frames.joined_stage import Frames
from wamplex.core.model.frame_set import FrameSet
from wamplex.core.model.picture import Picture
from wamplex.core.model.source import Source

_cache = LruCache(max_count=2)  # scenes


def relative_file(frame: Path, reference: Path) -> str:
    """The path of a frame as a recipe states it: relative to the folder of the reference.

    Parameters
    ----------
    frame : file of the frame
    reference : file of the reference
    """
    return Path(os.path.relpath(frame.absolute(), reference.absolute().parent)).as_posix()


def stored_pixels(picture: Picture) -> tuple[NDArray[np.uint8 | np.uint16], float]:
    """Pixels in the depth of their file, which takes a quarter or half of the memory, and their white.

    Parameters
    ----------
    picture : the decoded picture
    """
    white = 255.0 if picture.depth == 8 else 65535.0
    pixels = np.rint(picture.pixels * np.float32(white))
    return pixels.astype(np.uint8 if picture.depth == 8 else np.uint16), white


def obstacle(frame: Picture, reference: Picture) -> str | None:
    """Why a picture cannot be a further frame of another, before anything is measured; None if nothing is.

    Parameters
    ----------
    frame, reference : decoded pictures
    """
    if (frame.width, frame.height) != (reference.width, reference.height):
        return f"is {frame.width} × {frame.height} px, not {reference.width} × {reference.height}"
    if frame.pixels.shape[2] != reference.pixels.shape[2] or frame.profile != reference.profile:
        return "has another colour profile"
    if frame.alpha is not None or reference.alpha is not None:
        return "has transparency"
    return None


def reference_frame(reference: Picture, deviation: float, colour_deviation: float) -> Frame:
    """The picture itself as a frame.

    Parameters
    ----------
    reference : the decoded picture
    deviation, colour_deviation : of its noise in luma and in colour differences, in levels
    """
    pixels, white = stored_pixels(reference)
    exposure = (1.0,) * pixels.shape[2], (0.0,) * pixels.shape[2]
    return Frame(pixels, white, np.eye(3), *exposure, deviation, colour_deviation, is_reference=True)


def load_frames(reference: Picture, frame_set: FrameSet, read: Callable[[Path], Picture]) -> Frames:
    """The frames of a scene, the reference first; the last scenes are cached.

    Parameters
    ----------
    reference : the picture that the recipe is for, developed
    frame_set : its further frames
    read : decodes one of them, developed as the reference is

    Returns
    -------
    Pixels with all that was fitted.

    Raises
    ------
    RecipeError : when the picture comes from no file, or a frame does not fit it
    UnreadablePictureError : when a frame is missing or damaged
    SourceChangedError : when a frame is not the one that was aligned
    """
    if reference.source is None:
        raise RecipeError("Further frames lie beside the picture's file, and it has none.")
    folder = reference.source.path.parent
    sources = [Source.of(folder / ref.file) for ref in frame_set.frames]
    for ref, source in zip(frame_set.frames, sources, strict=True):
        if source.digest != ref.digest:
            raise SourceChangedError(f"{source.path.name} is not the frame that was aligned. Align the frames again.")
    key = (reference.source, reference.development, tuple(sources), frame_set)
    return _cache.get(key, lambda: _load(reference, frame_set, sources, read))


def _load(
    reference: Picture, frame_set: FrameSet, sources: Sequence[Source], read: Callable[[Path], Picture]
) -> Frames:
    deviations = (frame_set.deviation, frame_set.colour_deviation)
    frames = [reference_frame(reference, *deviations)]
    for ref, source in zip(frame_set.frames, sources, strict=True):
        picture = read(source.path)
        against = obstacle(picture, reference)
        if against is not None:
            raise RecipeError(f"{ref.file} {against}.")
        motion = np.asarray(ref.motion, np.float64).reshape(3, 3)
        frames.append(Frame(*stored_pixels(picture), motion, ref.gains, ref.offsets, *deviations))
    return Frames(frames, frame_set.blur_px)
