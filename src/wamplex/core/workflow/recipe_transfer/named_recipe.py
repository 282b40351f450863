"""A recipe stored under a name."""

from __future__ import annotations

import json
from typing import Literal

from pydantic import Field, ValidationError

from wamplex.core.base.bounded_parsing import parse_json
from wamplex.core.base.errors import RecipeError
from wamplex.core.base.frozen_model import FrozenModel, describe_validation_error
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.geometry.framing import Framing
from wamplex.core.model.recipe import Recipe, migrate_recipe
from wamplex.core.workflow.recipe_transfer.transfer import transferable_recipe, without_positions

NAMED_RECIPE_FORMAT: Literal["wamplex-saved-recipe"] = "wamplex-saved-recipe"


class NamedRecipe(FrozenModel):
    """What was decided about a picture, kept for others.

    Attributes
    ----------
    name : what the user calls it
    recipe : without what belongs to one picture alone
    delivery : how files are written; None where the recipe came out of a file, which does not say
    """

    format: Literal["wamplex-saved-recipe"] = NAMED_RECIPE_FORMAT
    version: Literal[2] = 2
    name: str = Field(min_length=1, max_length=80)
    recipe: Recipe = Recipe()
    delivery: Delivery | None = None


def name_recipe(name: str, recipe: Recipe, delivery: Delivery | None) -> tuple[NamedRecipe, tuple[str, ...]]:
    """Prepare a recipe for storing under a name.

    Parameters
    ----------
    name : name that the user gave
    recipe : all decisions about the picture
    delivery : kind of file, folder and name

    Returns
    -------
    The recipe without what belongs to its picture, and what was left out, in words.

    Raises
    ------
    RecipeError : when the name cannot be used
    """
    finish, left_out = transferable_recipe(recipe.finish)
    if recipe.framing != Framing():
        left_out = (*left_out, "turning, straightening and crop")
    general = recipe.finished(finish).replace(framing=Framing(), base=without_positions(recipe.base))
    try:
        return NamedRecipe(name=name.strip(), recipe=general, delivery=delivery), left_out
    except ValidationError as error:
        raise RecipeError(f"The recipe cannot be called “{name}”: {describe_validation_error(error)}.") from error


def read_named_recipe(text: bytes, name: str) -> NamedRecipe:
    """Read a stored recipe.

    Parameters
    ----------
    text : JSON, as bytes
    name : for messages

    Returns
    -------
    The recipe.

    Raises
    ------
    RecipeError : when it is none
    """
    try:
        fields = parse_json(text)
        if isinstance(fields, dict) and fields.get("version") == 1 and isinstance(fields.get("recipe"), dict):
            fields = {**fields, "version": 2, "recipe": migrate_recipe(fields["recipe"])}
        return NamedRecipe.model_validate_json(json.dumps(fields))
    except ValueError as error:
        if not isinstance(error, ValidationError):
            raise RecipeError(f"The recipe {name} cannot be used: it is not JSON ({error}).") from error
        raise RecipeError(f"The recipe {name} cannot be used: {describe_validation_error(error)}.") from error
