"""The command ``wamplex``: with a subcommand the work without a window, else the window."""

from __future__ import annotations

import difflib
import io
import logging
import sys
from pathlib import Path

import typer

from wamplex.commands import USAGE
from wamplex.commands.command_group import SUBCOMMANDS, CommandGroup

_HELP, _VERSION, _WINDOW_FLAGS = ("--help", "-h"), ("--version", "-V"), ("--demo", "--new-window")

app = typer.Typer(
    cls=CommandGroup,
    add_completion=False,
    no_args_is_help=True,
    rich_markup_mode=None,
    context_settings={"help_option_names": list(_HELP)},
)


@app.callback(
    epilog="Without a command, the files open in the window. --demo opens the demo pictures, --new-window a second "
    "window; --version (-V) prints the version."
)
def wamplex() -> None:
    """Enlarge pictures for printing, compare upscalers, and export print files.

    wamplex [FILE ...] opens the window; wamplex COMMAND works without one.
    """


def main() -> None:
    """Entry point of the ``wamplex`` command."""
    # What libvips grumbles about while probing reaches the user as a sentence of ours.
    logging.getLogger("pyvips").setLevel(logging.CRITICAL)
    # Names of files may hold what no encoding can say.
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")
    words = sys.argv[1:]
    first = words[0] if words else ""
    if first in _VERSION:
        from importlib.metadata import version

        print(f"wamplex {version('wamplex')}")
    elif first in SUBCOMMANDS or first in _HELP:
        app()
    else:
        _open_window(words)


def _open_window(words: list[str]) -> None:
    for word in words:
        fault = _fault(word)
        if fault:
            print(f"{fault} Try: wamplex --help", file=sys.stderr)
            raise SystemExit(USAGE)
    from wamplex.app.startup.start import start_window

    paths = [Path(word) for word in words if word not in _WINDOW_FLAGS]
    raise SystemExit(start_window(paths, demo="--demo" in words, new="--new-window" in words))


def _fault(word: str) -> str | None:
    """What is wrong with a word where the window is to open, if anything."""
    if word in _WINDOW_FLAGS or Path(word).exists():
        return None
    if word.startswith("-"):
        return f"There is no option {word}."
    close = difflib.get_close_matches(word, SUBCOMMANDS, n=1)
    suggestion = f" Did you mean {close[0]}?" if close else ""
    return f"“{word}” is neither a command nor a file.{suggestion}"
