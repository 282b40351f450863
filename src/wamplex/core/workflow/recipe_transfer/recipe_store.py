"""The folder of recipes stored under names."""

from __future__ import annotations

import re
import unicodedata
from pathlib import Path

from platformdirs import user_data_path

from wamplex.core.base.atomic_files import write_atomically
from wamplex.core.base.errors import RecipeError
from wamplex.core.workflow.recipe_transfer.named_recipe import NamedRecipe, read_named_recipe

_SUFFIX = ".json"
_LARGEST_BYTES = 5_000_000


def recipes_dir() -> Path:
    """Folder of the stored recipes.

    Returns
    -------
    Path; the folder may not exist.
    """
    return user_data_path("wamplex") / "recipes"


def stored_recipes() -> tuple[NamedRecipe, ...]:
    """Load all stored recipes; damaged ones are left out.

    Returns
    -------
    Sorted by name.
    """
    recipes = []
    for path in sorted(recipes_dir().glob(f"*{_SUFFIX}")):
        try:
            recipes.append(read_named_recipe(_bytes(path), path.stem))
        except (OSError, RecipeError):
            continue
    return tuple(sorted(recipes, key=lambda saved: saved.name.casefold()))


def store_recipe(saved: NamedRecipe) -> Path:
    """Store a recipe; it replaces one of the same name.

    Parameters
    ----------
    saved : recipe of another picture

    Returns
    -------
    Path of its file.

    Raises
    ------
    RecipeError : when it cannot be written, or its name has no letter or digit
    """
    path = _path(saved.name)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        write_atomically(path, saved.model_dump_json(indent=1).encode())
    except OSError as error:
        raise RecipeError(f"The recipe cannot be stored: {(error.strerror or str(error)).lower()}.") from error
    return path


def load_recipe(name: str) -> NamedRecipe | None:
    """Load a stored recipe by its name.

    Parameters
    ----------
    name : name that the user gave

    Returns
    -------
    The recipe; None where there is none.

    Raises
    ------
    RecipeError : when it is damaged
    """
    if not _slug(name):
        return None
    path = _path(name)
    try:
        return read_named_recipe(_bytes(path), name) if path.is_file() else None
    except OSError as error:
        raise RecipeError(f"The recipe {name} cannot be read: {error.strerror or error}.") from error


def forget_recipe(name: str) -> None:
    """Take a recipe off the shelf.

    Parameters
    ----------
    name : name that the user gave

    Raises
    ------
    RecipeError : when its file cannot be removed
    """
    try:
        _path(name).unlink(missing_ok=True)
    except OSError as error:
        raise RecipeError(f"The recipe {name} cannot be removed: {(error.strerror or str(error)).lower()}.") from error


def _path(name: str) -> Path:
    slug = _slug(name)
    if not slug:
        raise RecipeError(f"“{name}” has no letter or digit.")
    return recipes_dir() / f"{slug}{_SUFFIX}"


def _slug(name: str) -> str:
    plain = unicodedata.normalize("NFKC", name).casefold()
    return re.sub(r"[\W_]+", "-", plain).strip("-")[:60]


def _bytes(path: Path) -> bytes:
    with path.open("rb") as file:
        return file.read(_LARGEST_BYTES)
