"""The source stage of several frames of one scene."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from wamplex.core.base.progress import Progress
from wamplex.core.frames.concert import FramesStage
from wamplex.core.frames.frame_files import load_frames
from wamplex.core.geometry.framing import Framing
from wamplex.core.intake.read import read_picture
from wamplex.core.model.frame_set import FrameSet
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.trial.developed_picture import develop_picture


def frames_source_stage(picture: Picture, framed: Picture, recipe: Recipe, frame_set: FrameSet) -> FramesStage:
    """First stage where frames are joined: framed pixels, with the whole picture and all frames.

    Parameters
    ----------
    picture : the reference, upright, whole and developed
    framed : the same as the framing leaves it; not straightened, and then not cropped
    recipe : framing and development
    frame_set : further frames

    Raises
    ------
    RecipeError, UnreadablePictureError, SourceChangedError : when a frame cannot be used
    """
    framing = recipe.framing
    crop = framing.window(picture.width, picture.height) if framing.straighten_deg == 0 else None
    origin = (0.0, 0.0) if crop is None else (float(crop.x), float(crop.y))
    arrangement = Framing(turns=framing.turns, flipped=framing.flipped)
    frames = load_frames(picture, frame_set, frame_reader(recipe))
    return FramesStage(framed, origin, picture, frames, arrangement, crop)


def frame_reader(recipe: Recipe, progress: Progress | None = None) -> Callable[[Path], Picture]:
    """Reads frames, developed as the reference is.

    Parameters
    ----------
    recipe : of the reference
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    Path of a frame to its picture.
    """
    return lambda path: develop_picture(read_picture(path, progress), recipe, progress)
