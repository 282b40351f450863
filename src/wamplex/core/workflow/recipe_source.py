"""Loads a recipe from wherever it is: the recipes stored under a name, a recipe file, a project or a print file."""

from __future__ import annotations

import json
from pathlib import Path

from wamplex.core.base.bounded_parsing import parse_json
from wamplex.core.base.errors import RecipeError, UnreadablePictureError
from wamplex.core.base.regular_files import read_regular_file
from wamplex.core.model.assets import process_assets
from wamplex.core.model.recipe import Recipe
from wamplex.core.provenance.recipe_reader import read_recipe
from wamplex.core.workflow.projects.project import SUFFIX, open_project
from wamplex.core.workflow.recipe_transfer.recipe_store import load_recipe
from wamplex.core.workflow.recipe_transfer.sourced_recipe import SourcedRecipe

# Beside the recipe's own fields in a recipe file: which file the recipe was decided for.
SOURCE_DIGEST = "source_digest"
_LARGEST_RECIPE_BYTES = 50_000_000


def load_sourced_recipe(path: Path, picture: Path | None = None, *, as_is: bool = False) -> SourcedRecipe:
    """Load a recipe for a picture.

    Parameters
    ----------
    path : name of a stored recipe, or a file: a recipe, a project, or a picture that holds its recipe
    picture : chooses among the pictures of a project; the first one counts where none has its file name
    as_is : see `SourcedRecipe`

    Returns
    -------
    The recipe, and which picture it was decided for.

    Raises
    ------
    RecipeError, ProjectError : when there is no recipe
    UnreadablePictureError : when the file cannot be read as a picture
    """
    if not path.exists() and (stored := load_recipe(str(path))) is not None:
        return SourcedRecipe(stored.recipe, as_is=as_is)
    if path.suffix == SUFFIX:
        return _find_project_recipe(path, picture, as_is)
    try:
        text = read_regular_file(path, _LARGEST_RECIPE_BYTES + 1)
    except UnreadablePictureError as error:
        raise RecipeError(f"The recipe cannot be read: {error}") from error
    if text and not text.lstrip().startswith(b"{"):  # no JSON: a picture, then
        recipe, origin = read_recipe(path)
        return SourcedRecipe(recipe, origin.get("SourceDigest"), as_is=as_is)
    if len(text) > _LARGEST_RECIPE_BYTES:
        raise RecipeError(f"{path.name} is too large to be a recipe.")
    return _parse_recipe_file(text.decode("utf-8", "replace"), as_is)


def recipe_file_text(recipe: Recipe, digest: str | None) -> str:
    """Write a recipe file: the recipe as JSON, and the picture that it was decided for.

    Parameters
    ----------
    recipe : all decisions about the picture
    digest : SHA-256 of that picture's file, in hexadecimal

    Returns
    -------
    JSON text.
    """
    fields = {"version": recipe.version, **json.loads(recipe.model_dump_json(exclude_defaults=True))}
    return json.dumps({**fields, SOURCE_DIGEST: digest} if digest else fields, indent=2)


def _parse_recipe_file(text: str, as_is: bool) -> SourcedRecipe:
    digest = None
    try:
        fields = parse_json(text)
    except ValueError:
        fields = None  # refused below, with the reason
    if isinstance(fields, dict) and SOURCE_DIGEST in fields:
        digest = str(fields.pop(SOURCE_DIGEST))
        text = json.dumps(fields)
    return SourcedRecipe(Recipe.from_json(text), digest, as_is=as_is)


def _find_project_recipe(path: Path, picture: Path | None, as_is: bool) -> SourcedRecipe:
    project, parts = open_project(path)
    process_assets().take_in(parts)
    named = [saved for saved in project.pictures if picture is not None and saved.path.name == picture.name]
    pictures = named or project.pictures[:1]
    if not pictures:
        raise RecipeError(f"{path.name} holds no recipe: it has no pictures.")
    return SourcedRecipe(pictures[0].recipe, path=pictures[0].path, as_is=as_is)
