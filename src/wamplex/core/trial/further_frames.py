"""Adds further frames of the scene to a recipe."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from wamplex.core.base.errors import RecipeError
from wamplex.core.base.progress import Progress
from wamplex.core.frames.concert import CONCERT
from wamplex.core.frames.fit import SceneFit, fit_frames
from wamplex.core.intake.read import read_picture
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.trial.developed_picture import develop_picture


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
    RecipeError : when no frame can be used, or another upscaler is stamped
    UnreadablePictureError : when a file cannot be read
    Cancelled : when ``progress`` is cancelled
    """
    if recipe.upscaler != CONCERT.key:
        raise RecipeError(f"Further frames are joined by Concert alone, not by {recipe.upscaler.capitalize()}.")
    if picture.path is not None and picture.path.resolve() in [path.resolve() for path in files]:
        raise RecipeError(f"{picture.path.name} is the reference. Name other frames than it.")
    others = [develop_picture(read_picture(path, progress), recipe, progress) for path in files]
    fit = fit_frames(picture, others, recipe.values, softness_px, progress)
    left_out = tuple(f"{frame.path.name} is left out: it {frame.refused}" for frame in fit.frames if frame.refused)
    if fit.frame_set is None:
        raise RecipeError(f"No frame can be joined. {'. '.join(left_out)}.")
    return recipe.replace(frames=fit.frame_set), (_joined_text(fit), *left_out)


def _joined_text(fit: SceneFit) -> str:
    used = [frame for frame in fit.frames if frame.refused is None]
    furthest = max((abs(n) for frame in used for n in frame.moved_px), default=0.0)
    return f"{len(used) + 1} frames are joined; the furthest lies {furthest:.1f} px from the reference"
