"""The source stage of several frames of one scene."""

from __future__ import annotations

from wamplex.core.frames.concert import FramesStage
from wamplex.core.frames.frame_files import load_frames
from wamplex.core.geometry.framing import Framing
from wamplex.core.model.frame_set import FrameSet
from wamplex.core.model.picture import Picture


def frames_source_stage(picture: Picture, framed: Picture, framing: Framing, frame_set: FrameSet) -> FramesStage:
    """First stage where frames are joined: framed pixels, with the whole picture and all frames.

    Parameters
    ----------
    picture : upright and whole, the reference
    framed : the same as the framing leaves it; not straightened, and then not cropped
    framing : of the recipe
    frame_set : further frames

    Raises
    ------
    RecipeError, UnreadablePictureError, SourceChangedError : when a frame cannot be used
    """
    level = framing.straighten_deg == 0
    crop = framing.window(picture.width, picture.height) if level else None
    origin = (0.0, 0.0) if crop is None else (float(crop.x), float(crop.y))
    arrangement = Framing(turns=framing.turns, flipped=framing.flipped)
    return FramesStage(framed, origin, picture, load_frames(picture, frame_set), arrangement, crop)
