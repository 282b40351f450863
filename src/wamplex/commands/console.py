"""Shared by all subcommands: error messages, progress bars."""

from __future__ import annotations

import sys

from rich.console import Console
from rich.progress import BarColumn, TextColumn
from rich.progress import Progress as Bars

from wamplex.core.workflow.queue.journal import Journal


def print_notices(journal: Journal) -> None:
    """Tell the user what became of the journal's file, where there is anything to tell."""
    for text in journal.take_notices():
        print_error(text)


def print_error(sentence: str) -> None:
    """Tell the user what went wrong, apart from the results."""
    print(sentence, file=sys.stderr)


def progress_bars(as_json: bool) -> Bars:
    """Progress bars, shown in a terminal only, and beside JSON on the other stream."""
    console = Console(stderr=as_json)
    columns = (
        TextColumn("{task.description}", markup=False),
        BarColumn(),
        TextColumn("{task.fields[words]}", markup=False),
    )
    return Bars(*columns, console=console, transient=True, disable=not console.is_terminal)
