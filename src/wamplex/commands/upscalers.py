"""``wamplex upscalers``: what there is to enlarge with; adding networks of one's own."""

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
from wamplex.core.trial.registry import known_upscalers
from wamplex.core.upscale.user_networks.network_store import add_user_network, remove_user_network
from wamplex.core.workflow.json_values import upscaler_values

upscalers_app = typer.Typer(
    invoke_without_command=True,
    add_completion=False,
    rich_markup_mode=None,
    help="List the upscalers; add and remove your own networks.",
)


@upscalers_app.callback()
def upscalers(
    context: typer.Context, as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False
) -> None:
    """List the upscalers."""
    if context.invoked_subcommand is not None:
        return
    if as_json:
        print(json.dumps([upscaler_values(u) for u in known_upscalers()], indent=2))
        return
    table = Table("key", "name", "kind", "for", box=None)
    for upscaler in known_upscalers():
        table.add_row(upscaler.key, upscaler.name, upscaler.kind, upscaler.purpose)
    Console().print(table)


@upscalers_app.command()
def add(
    network: Annotated[Path, typer.Argument(metavar="FILE", help="An ONNX network, picture in, picture out.")],
    name: Annotated[str | None, typer.Option(help="Name; by default the name of the file.")] = None,
) -> None:
    """Try a network of yours in a process of its own, and list it when it works."""
    try:
        added = add_user_network(network, name, used_keys=tuple(u.key for u in known_upscalers()))
    except WamplexError as error:
        print_error(str(error))
        raise typer.Exit(SOME_FAILED) from error
    print(f"{added.name} is listed as “{added.key}”. {added.purpose}")


@upscalers_app.command()
def remove(key: Annotated[str, typer.Argument(help="Key of a network that was added.")]) -> None:
    """Take a network of yours off the list."""
    try:
        remove_user_network(key)
    except WamplexError as error:
        print_error(str(error))
        raise typer.Exit(SOME_FAILED) from error
    print(f"“{key}” is no longer listed.")
