"""The command ``wamplex``: with a subcommand the work without a window, else the window."""

from __future__ import annotations

import io
import logging
import sys
from pathlib import Path

import typer

from wamplex.commands.assess import assess
from wamplex.commands.console import USAGE
from wamplex.commands.desktop import desktop
from wamplex.commands.enlarge import enlarge
from wamplex.commands.execution import execution
from wamplex.commands.hand_over import hand_over
from wamplex.commands.info import info
from wamplex.commands.recipe import recipe
from wamplex.commands.resume import resume
from wamplex.commands.trial import trial
from wamplex.commands.upscalers import upscalers_app
from wamplex.commands.watch import watch

COMMANDS = (
    "enlarge",
    "upscalers",
    "info",
    "assess",
    "trial",
    "execution",
    "recipe",
    "resume",
    "watch",
    "desktop",
    "hand-over",
)

app = typer.Typer(add_completion=False, no_args_is_help=True, rich_markup_mode=None, help=__doc__)
app.command()(enlarge)
app.command()(info)
app.command()(assess)
app.command()(trial)
app.command()(execution)
app.command()(recipe)
app.command()(resume)
app.command()(watch)
app.command()(desktop)
app.command()(hand_over)
app.add_typer(upscalers_app, name="upscalers")


def main() -> None:
    """Entry point of the ``wamplex`` command."""
    # What libvips grumbles about while probing reaches the user as a sentence of ours.
    logging.getLogger("pyvips").setLevel(logging.CRITICAL)
    # Names of files may hold what no encoding can say.
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")
    text = sys.argv[1:]
    if text and (text[0] in COMMANDS or text[0] in ("--help", "-h", "--version")):
        if text[0] == "--version":
            from importlib.metadata import version

            print(f"wamplex {version('wamplex')}")
            return
        app()
        return
    flags = ("--demo", "--new-window")
    unknown = [w for w in text if w.startswith("-") and w not in flags]
    if unknown:
        print(f"There is no option {unknown[0]}. Try: wamplex --help", file=sys.stderr)
        raise SystemExit(USAGE)
    from wamplex.app.startup.start import start_window

    paths = [Path(word) for word in text if word not in flags]
    raise SystemExit(start_window(paths, demo="--demo" in text, new="--new-window" in text))
