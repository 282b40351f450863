"""From a picture and the options of ``wamplex enlarge`` to the recipe for it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from wamplex.commands.develop_options import DevelopmentRequest
from wamplex.commands.finish_options import merge_finish
from wamplex.core.analysis.suggestion.suggestion import SUGGESTED, measure_and_suggest
from wamplex.core.base.errors import RecipeError
from wamplex.core.base.progress import Progress
from wamplex.core.finish.finish_request import FinishRequest
from wamplex.core.frames.concert import CONCERT
from wamplex.core.intake.probe import Probe
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.trial.developed_picture import develop_picture
from wamplex.core.trial.further_frames import add_frames
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.workflow.orders.intent import Intent, resolve
from wamplex.core.workflow.recipe_source import load_sourced_recipe
from wamplex.core.workflow.recipe_transfer.sourced_recipe import SourcedRecipe, fit_recipe
from wamplex.core.workflow.recipe_transfer.transfer import Part, framing_notes, trial_obstacle


def upscaler_for_frames(frames: Sequence[Path], pictures: Sequence[Path], upscaler: str, recipe: Path | None) -> str:
    """The upscaler of a request that may have further frames.

    Parameters
    ----------
    frames : further frames of the scene
    pictures : what is to be enlarged
    upscaler : key of the upscaler that is asked for
    recipe : the recipe that is asked for

    Returns
    -------
    Its key: further frames are joined.

    Raises
    ------
    RecipeError : when further frames do not fit the rest of the request
    """
    if not frames:
        return upscaler
    if len(pictures) > 1:
        raise RecipeError("--with takes one picture, which is the reference of the scene.")
    if recipe is not None:
        raise RecipeError("Use either --with or --recipe. A recipe names the frames it was made with.")
    if upscaler.lower() not in (SUGGESTED, CONCERT.key):
        raise RecipeError(f"Frames given by --with are joined by --upscaler concert, not by {upscaler}.")
    return CONCERT.key


@dataclass(frozen=True)
class EnlargeRequest:
    """What the options ask for, the same for all pictures.

    Attributes
    ----------
    recipe : where trial, framing and finish come from instead of the options, None for the options
    as_is : whether crop and masks of the recipe count for pictures that it was not made for
    measure : whether the recipe's values are measured anew for each picture
    frames : further frames of the scene
    """

    intent: Intent
    develop: DevelopmentRequest
    finish: FinishRequest
    recipe: Path | None = None
    as_is: bool = False
    measure: bool = False
    frames: tuple[Path, ...] = ()

    def for_picture(self, header: Probe) -> PictureRequest:
        """The request for one picture, with the recipe that counts for it.

        Raises
        ------
        RecipeError, ProjectError : when there is no recipe
        """
        if self.recipe is None:
            return PictureRequest(self, self.intent, None, ())
        saved = load_sourced_recipe(self.recipe, header.path, as_is=self.as_is)
        # Nothing is suggested where the recipe says it; a crop of the recipe counts for the size, too.
        own = saved.belongs_to(header.source)
        usable = own or trial_obstacle(saved.recipe.base, header) is None
        intent = replace(self.intent, upscaler=saved.recipe.upscaler if usable else SUGGESTED)
        if own:
            return PictureRequest(self, replace(intent, framing=saved.recipe.framing), saved, ())
        return PictureRequest(self, intent, saved, tuple(framing_notes(saved.recipe, Recipe(framing=intent.framing))))


@dataclass(frozen=True)
class PictureRequest:
    """What is asked for of one picture.

    Attributes
    ----------
    saved : the recipe to go by, None for the options alone
    notes : what does not fit the picture
    """

    request: EnlargeRequest
    intent: Intent
    saved: SourcedRecipe | None
    notes: tuple[str, ...]

    def decide(self, picture: Picture, header: Probe, progress: Progress) -> tuple[Recipe, tuple[str, ...]]:
        """Measure the picture and decide what the options leave open.

        Returns
        -------
        The recipe, and a sentence on each automatic choice.

        Raises
        ------
        SizeError, RecipeError : when the request does not fit the picture
        Cancelled : when ``progress`` is cancelled
        """
        request, intent = self.request, self.intent
        development = request.develop.of(picture)
        picture = develop_picture(picture, Recipe(development=development), progress)
        protects = intent.upscaler != SUGGESTED and "protected" in find_upscaler(intent.upscaler).values
        suggested = measure_and_suggest(picture, progress, faces=protects)
        recipe, reasons = resolve(intent, header, suggested)
        recipe = recipe.replace(development=development)
        if request.frames:
            recipe, notes = add_frames(recipe, picture, request.frames, suggested.softness_px, progress)
            reasons = (*reasons, *notes)
        finish, finish_reasons = request.finish.finish_of(picture, suggested, recipe.density_ppi, progress)
        reasons = (*self.notes, *reasons, *finish_reasons)
        if self.saved is None:
            return recipe.finished(finish), reasons
        parts: set[Part] = {"finish"}
        if development is None:
            parts.add("developing")
        if not request.measure:
            parts.add("trial")
        recipe, notes = fit_recipe(self.saved, recipe, frozenset(parts), header, picture, lambda: suggested, progress)
        return recipe.finished(merge_finish(finish, recipe.finish)), (*reasons, *notes)
