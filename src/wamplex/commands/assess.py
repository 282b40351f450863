"""``wamplex assess``: the condition sheet without a window."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console
from rich.table import Table

from wamplex.commands import SOME_FAILED
from wamplex.commands.console import print_error, progress_bars
from wamplex.core.analysis.report.condition import measure_whole_condition
from wamplex.core.analysis.report.findings import describe_condition
from wamplex.core.analysis.suggestion.suggestion import suggest
from wamplex.core.base.errors import WamplexError
from wamplex.core.base.progress import Progress
from wamplex.core.intake.read import read_picture
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.workflow.json_values import condition_values


def assess(
    picture: Annotated[Path, typer.Argument(metavar="IN", help="A picture file.")],
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Measure noise, compression, softness, faces and more, and say what they suggest."""
    try:
        with progress_bars(as_json) as shown:
            task = shown.add_task(picture.name, total=1.0, words="reading")
            progress = Progress(lambda done, words: shown.update(task, completed=done, words=words))
            condition = measure_whole_condition(read_picture(picture, progress), progress)
    except WamplexError as error:
        print_error(str(error))
        raise typer.Exit(SOME_FAILED) from error
    rows = describe_condition(condition)
    if as_json:
        print(json.dumps({"path": str(picture), **condition_values(condition, rows)}, indent=2))
        return
    table = Table("", "", "why", "suggestion", box=None)
    for row in rows:
        table.add_row(row.title, row.value, row.reason, row.suggestion.text if row.suggestion else "")
    suggested = suggest(condition)
    Console().print(table)
    values = suggested.values_for(suggested.upscaler, find_upscaler(suggested.upscaler).values)
    gain = suggested.expected_gain(suggested.upscaler, values)
    likely = "" if gain is None else f" Likely {gain.text}."
    print(f"\nSuggested: {find_upscaler(suggested.upscaler).name}, because {suggested.reason}.{likely}")
