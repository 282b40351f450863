"""``wamplex recipe``: how a file was made."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console
from rich.table import Table

from wamplex.commands.console import SOME_FAILED, complain
from wamplex.core.errors import WamplexError
from wamplex.core.provenance.find import recipe_of_file

_WORDS = {
    "Program": "made by",
    "Provider": "networks ran on",
    "SourceName": "from",
    "SourceDigest": "SHA-256 of that",
    "RecipeDigest": "SHA-256 of the recipe",
}


def recipe(
    picture: Annotated[Path, typer.Argument(metavar="FILE", help="A file that Wamplex made.")],
    as_json: Annotated[
        bool, typer.Option("--json", help="Print the recipe alone, for: enlarge --recipe.")
    ] = False,
) -> None:
    """Print the recipe that a file was made by."""
    try:
        found, said = recipe_of_file(picture)
    except WamplexError as error:
        complain(str(error))
        raise typer.Exit(SOME_FAILED) from error
    text = found.model_dump_json(exclude_defaults=True)
    if as_json:
        print(json.dumps(json.loads(text), indent=2))
        return
    table = Table(box=None, show_header=False)
    for name, words in _WORDS.items():
        if name in said:
            table.add_row(words, said[name])
    for name, value in json.loads(text).items():
        table.add_row(name.replace("_", " "), json.dumps(value) if isinstance(value, dict) else str(value))
    Console().print(table)
