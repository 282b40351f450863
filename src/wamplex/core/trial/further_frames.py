"""Adds further frames of the scene to a recipe."""

from __future__ import annotations

import math
from collections.abc import Sequence
from pathlib import Path

from wamplex.core.base.errors import RecipeError
from wamplex.core.base.progress import Progress
from wamplex.core.frames.fit import fit_frames
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.trial.frames_stage import frame_reader


def add_frames(
    recipe: Recipe, picture: Picture, files: Sequence[Path], softness_px: float = 0.0, progress: Progress | None = None
) -> tuple[Recipe, tuple[str, ...]]:
    """Align further frames to a picture, and have them joined.

    Parameters
    ----------
    recipe : with Concert as its upscaler; its values clean the picture's own enlargement
    picture : the reference, developed as the recipe says
    files : the other frames
    softness_px : blur that was measured in the reference, in its pixels
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    The recipe with the frames, and a sentence on each decision.

    Raises
    ------
    RecipeError : when no frame can be used
    UnreadablePictureError : when a file cannot be read
    Cancelled : when ``progress`` is cancelled
    """
    if picture.path is not None and picture.path.resolve() in [path.resolve() for path in files]:
        raise RecipeError(f"{picture.path.name} is the reference. Name other frames than it.")
    fit = fit_frames(picture, files, frame_reader(recipe, progress), recipe.values, softness_px, progress)
    if fit.frame_set is None:
        raise RecipeError(f"No frame can be joined. {'. '.join(fit.left_out)}.")
    furthest = max(math.hypot(*frame.moved_px) for frame in fit.joined)
    joined = f"{len(fit.joined) + 1} frames are joined; the furthest lies {furthest:.1f} px from the reference"
    return recipe.replace(frames=fit.frame_set), (joined, *(f"left out: {text}" for text in fit.left_out))
