"""``wamplex recipe``: how a file was made."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console
from rich.table import Table

from wamplex.commands import SOME_FAILED
from wamplex.commands.console import print_error
from wamplex.core.base.errors import WamplexError
from wamplex.core.model.recipe import Recipe
from wamplex.core.provenance.recipe_reader import read_recipe
from wamplex.core.workflow.recipe_source import recipe_file_text
from wamplex.core.workflow.recipe_transfer.named_recipe import name_recipe
from wamplex.core.workflow.recipe_transfer.part_text import part_text
from wamplex.core.workflow.recipe_transfer.recipe_store import forget_recipe, store_recipe, stored_recipes
from wamplex.core.workflow.recipe_transfer.transfer import PARTS

_WORDS = {
    "Program": "made by",
    "Provider": "networks ran on",
    "SourceName": "from",
    "SourceDigest": "SHA-256 of that",
    "RecipeDigest": "SHA-256 of the recipe",
}


def recipe(
    picture: Annotated[Path | None, typer.Argument(metavar="FILE", help="A file that Wamplex made.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print the recipe alone, for: enlarge --recipe.")] = False,
    keep: Annotated[str | None, typer.Option(help="Store it under this name, for: enlarge --recipe.")] = None,
    forget: Annotated[str | None, typer.Option(help="Delete a stored recipe.")] = None,
) -> None:
    """Print the recipe inside a file; without a file, list the stored recipes."""
    try:
        if forget is not None:
            forget_recipe(forget)
        if picture is None:
            _list_stored()
            return
        file_recipe, origin = read_recipe(picture)
        if keep is not None:
            _keep(keep, file_recipe)
            return
    except WamplexError as error:
        print_error(str(error))
        raise typer.Exit(SOME_FAILED) from error
    if as_json:
        print(recipe_file_text(file_recipe, origin.get("SourceDigest")))
        return
    table = Table(box=None, show_header=False)
    for name, label_text in _WORDS.items():
        if name in origin:
            table.add_row(label_text, origin[name])
    for name, value in json.loads(file_recipe.model_dump_json(exclude_defaults=True)).items():
        table.add_row(name.replace("_", " "), json.dumps(value) if isinstance(value, dict) else str(value))
    Console().print(table)


def _keep(name: str, new_recipe: Recipe) -> None:
    saved, left_out = name_recipe(name, new_recipe, None)
    store_recipe(saved)
    print(f"Stored as {saved.name}.")
    for text in left_out:
        print(f"Left out: {text}.")


def _list_stored() -> None:
    table = Table(box=None, show_header=False)
    for saved in stored_recipes():
        texts = (part_text(part, saved.recipe, saved.delivery) for part in PARTS)
        table.add_row(saved.name, "; ".join(text for text in texts if text))
    if table.row_count:
        Console().print(table)
    else:
        print("No recipe is stored. To store one: wamplex recipe FILE --keep NAME")
