"""``wamplex watch``: enlarges every picture that arrives in a folder, by a recipe."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console

from wamplex.commands import SOME_FAILED, USAGE
from wamplex.commands.console import print_error, print_notices
from wamplex.commands.options import parse_delivery
from wamplex.commands.stopping import Stopping
from wamplex.core.base.errors import Cancelled, WamplexError
from wamplex.core.base.progress import Progress
from wamplex.core.workflow.decoding.decoding_client import decode_in_worker
from wamplex.core.workflow.folder_watch.folder_watch import FolderWatch
from wamplex.core.workflow.folder_watch.process_arrival import WatchOptions, forget_interrupted
from wamplex.core.workflow.queue.journal import Journal, journal_path
from wamplex.core.workflow.recipe_source import load_sourced_recipe

_LOOK_S = 1.0


def watch(
    folder: Annotated[Path, typer.Argument(metavar="IN", help="Folder to watch.")],
    recipe: Annotated[Path, typer.Option(help="A recipe, a project, or a file that holds one.")],
    out: Annotated[Path, typer.Option(help="Folder for the results.")],
    measure: Annotated[
        bool, typer.Option("--measure", help="Measure noise, compression and blur for each picture.")
    ] = False,
    as_is: Annotated[
        bool, typer.Option("--as-is", help="Keep crop and masks of the recipe for every picture.")
    ] = False,
    file_format: Annotated[str | None, typer.Option("--format", help="As for enlarge.")] = None,
    depth: Annotated[int, typer.Option(help="Bits per channel, 8 or 16 (TIFF, PNG).")] = 16,
    quality: Annotated[int, typer.Option(help="JPEG quality, 1 to 100.")] = 92,
    profile: Annotated[str, typer.Option(help="As for enlarge.")] = "source",
    once: Annotated[bool, typer.Option("--once", help="Stop when no picture is left.")] = False,
) -> None:
    """Enlarge every picture that arrives in a folder, then move it to done/ or failed/."""
    folder = folder.absolute()
    try:
        if not folder.is_dir():
            raise WamplexError(f"{folder} is not a folder.")
        delivery = parse_delivery(f"{out.absolute()}/", file_format, depth, quality, profile, "safe", 2)
        options = WatchOptions(load_sourced_recipe(recipe, as_is=as_is), delivery, measure)
        journal = Journal(journal_path())
        watched = FolderWatch(folder, options, journal)
        forget_interrupted(journal, folder)
    except WamplexError as error:
        print_error(str(error))
        raise typer.Exit(USAGE) from error
    console = Console()
    console.print(f"Watching {folder}. Ctrl+C stops.", highlight=False, markup=False)
    with Stopping() as stopping, decode_in_worker():
        while stopping.asked is None:
            due = watched.due()
            print_notices(journal)
            for path in due:
                _do(path, watched, stopping, console)
            if once and not due and watched.finished:
                raise typer.Exit(SOME_FAILED if watched.deferred else 0)
            if not due:
                time.sleep(_LOOK_S)
    raise typer.Exit(stopping.exit_code)


def _do(path: Path, watched: FolderWatch, stopping: Stopping, console: Console) -> None:
    if stopping.asked is not None:
        return
    progress = Progress()
    try:
        with stopping.cancels(progress):
            result = watched.process(path, progress)
    except Cancelled:
        return
    except WamplexError as error:
        print_error(f"{path.name}: {error}")
        return
    console.print(f"{path.name}: {result.path}", highlight=False, markup=False, soft_wrap=True)
    for note in result.notes:
        console.print(f"  {note}", highlight=False, markup=False, soft_wrap=True)
