"""``wamplex info``: what kind of picture a file holds."""

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
from wamplex.core.geometry.size_text import byte_size_text
from wamplex.core.intake.probe import probe
from wamplex.core.workflow.json_values import probe_values


def info(
    picture: Annotated[Path, typer.Argument(metavar="IN", help="A picture file.")],
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Say what kind of picture a file holds."""
    try:
        header = probe(picture)
    except WamplexError as error:
        print_error(str(error))
        raise typer.Exit(SOME_FAILED) from error
    values = probe_values(header)
    if as_json:
        print(json.dumps(values, indent=2))
        return
    values["bytes"] = byte_size_text(header.file_bytes)
    values["density_ppi"] = "not stated" if header.density_ppi is None else header.density_ppi
    table = Table(box=None, show_header=False)
    for name, value in values.items():
        table.add_row(name.replace("_", " "), str(value))
    Console().print(table)
