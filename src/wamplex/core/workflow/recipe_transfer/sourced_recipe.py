"""A recipe that comes from elsewhere, and what it means for a picture."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from wamplex.core.analysis.suggestion.suggestions import Suggestions
from wamplex.core.base.progress import Progress
from wamplex.core.finish.face_positions import locate_faces
from wamplex.core.intake.probe import Probe
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.workflow.recipe_transfer.transfer import Part, transfer_recipe, trial_obstacle


@dataclass(frozen=True)
class SourcedRecipe:
    """A recipe, and which picture it was decided for.

    Attributes
    ----------
    digest : SHA-256 of that picture's file, None where it is not known
    path : of that picture's file, None where it is not known
    as_is : use crop, masks and faces for every picture, as the user asked
    """

    recipe: Recipe
    digest: str | None = None
    path: Path | None = None
    as_is: bool = False

    def belongs_to(self, source: Source) -> bool:
        """Whether the recipe was decided for this very file, so that its crop and masks fit.

        Parameters
        ----------
        source : the source file

        Raises
        ------
        SourceChangedError : when the file changed since it was opened
        """
        if self.as_is:
            return True
        if self.path is not None and self.path.exists() and self.path.samefile(source.path):
            return True
        return self.digest is not None and self.digest == source.digest


def fit_recipe(
    saved: SourcedRecipe,
    onto: Recipe,
    parts: frozenset[Part],
    header: Probe,
    picture: Picture,
    suggest: Callable[[], Suggestions],
    progress: Progress,
) -> tuple[Recipe, tuple[str, ...]]:
    """The recipe for a picture by a recipe that may be another picture's.

    Parameters
    ----------
    saved : recipe of another picture
    onto : what counts where a part is not taken over
    parts : which parts of the saved recipe are taken over
    header : the picture's header
    picture : developed
    suggest : measures the picture; called only where the recipe's trial cannot be used
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    The recipe, and a sentence on each thing that was left out, and on the faces detected.

    Raises
    ------
    SizeError : when the size does not fit the picture
    Cancelled : when ``progress`` is cancelled
    """
    if saved.belongs_to(header.source):
        return _own_recipe(saved.recipe, onto, parts), ()
    if "trial" in parts and trial_obstacle(saved.recipe.base, header) is not None:
        suggested = suggest()
        values = suggested.values_for(suggested.upscaler, find_upscaler(suggested.upscaler).values)
        onto = onto.replace(base=TrialSpec(upscaler=suggested.upscaler, values=values))
    recipe, notes = transfer_recipe(saved.recipe, onto, parts, header)
    recipe, face_notes = locate_faces(recipe, picture, progress)
    return recipe, (*notes, *face_notes)


def _own_recipe(saved: Recipe, onto: Recipe, parts: frozenset[Part]) -> Recipe:
    """Everything fits the picture it was decided for, its crop and masks too."""
    recipe = onto.finished(saved.finish) if "finish" in parts else onto
    if "developing" in parts:
        recipe = recipe.replace(development=saved.development)
    if "trial" in parts:
        recipe = recipe.replace(base=saved.base, frames=saved.frames)
    if "size" in parts:
        size = {name: getattr(saved, name) for name in ("framing", "factor", "density_ppi", "sheet")}
        recipe = recipe.replace(**size)
    return recipe
