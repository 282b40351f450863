"""``wamplex desktop``: menu entry, icon, kinds of file, manual and completion, for this user."""

from __future__ import annotations

import shutil
import sys
from pathlib import Path
from typing import Annotated, Literal

import typer

from wamplex.commands import SOME_FAILED
from wamplex.commands.command_group import CommandGroup
from wamplex.commands.console import print_error
from wamplex.desktop.install import install, uninstall


def desktop(
    context: typer.Context,
    action: Annotated[str, typer.Argument(metavar="install|uninstall", help="install or uninstall.")],
) -> None:
    """Put Wamplex into the desktop's menu, or take it out."""
    actions: dict[str, Literal["install", "uninstall"]] = {"install": "install", "uninstall": "uninstall"}
    if action not in actions:
        raise typer.BadParameter(f"“{action}” is neither install nor uninstall.")
    commands = context.find_root().command
    assert isinstance(commands, CommandGroup)
    program = Path(shutil.which("wamplex") or Path(sys.executable).with_name("wamplex"))
    try:
        done = (install if action == "install" else uninstall)(program_path(program), commands.load_all())
    except OSError as error:
        print_error(f"{error.filename or 'A file'} cannot be written: {(error.strerror or str(error)).lower()}.")
        raise typer.Exit(SOME_FAILED) from error
    for path in done:
        print(path)


def program_path(path: Path) -> Path:
    """The program that runs now, rather than another one of the same name on the way."""
    sibling = Path(sys.executable).with_name("wamplex")
    return sibling if sibling.exists() else path
