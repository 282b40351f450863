"""The subcommands by name, each imported when it is used: ``wamplex --help`` need not load what enlarges."""

from __future__ import annotations

from importlib import import_module
from typing import Any, NamedTuple

import typer
from typer.core import TyperGroup


class Subcommand(NamedTuple):
    """Where a subcommand stands, and its line in the list of ``wamplex --help``."""

    module: str
    attribute: str
    summary: str


SUBCOMMANDS = {
    "enlarge": Subcommand("enlarge", "enlarge", "Enlarge pictures and write print files."),
    "assess": Subcommand("assess", "assess", "Measure noise, compression, softness and faces, and suggest a recipe."),
    "trial": Subcommand("trial", "trial", "Rank the upscalers by how close they come to a known original."),
    "info": Subcommand("info", "info", "Say what kind of picture a file holds."),
    "upscalers": Subcommand("upscalers", "upscalers_app", "List the upscalers; add and remove your own networks."),
    "recipe": Subcommand("recipe", "recipe", "Print the recipe inside a file, or list the stored recipes."),
    "watch": Subcommand("watch", "watch", "Enlarge every picture that arrives in a folder."),
    "resume": Subcommand("resume", "resume", "Resume interrupted jobs."),
    "hand-over": Subcommand("hand_over", "hand_over", "Open a file in the window for another program."),
    "execution": Subcommand("execution", "execution", "Show or choose the device that runs networks."),
    "desktop": Subcommand("desktop", "desktop", "Put Wamplex into the desktop's menu, or take it out."),
}


class CommandGroup(TyperGroup):
    """The program's subcommands."""

    def list_commands(self, _context: Any) -> list[str]:
        return list(SUBCOMMANDS)

    def get_command(self, _context: Any, name: str) -> Any:
        """The subcommand, imported now; None where there is none of this name."""
        if name not in SUBCOMMANDS:
            return None
        if name not in self.commands:
            self.commands[name] = _load(name)
        return self.commands[name]

    def format_commands(self, _context: Any, formatter: Any) -> None:
        with formatter.section("Commands"):
            formatter.write_dl([(name, subcommand.summary) for name, subcommand in SUBCOMMANDS.items()])

    def load_all(self) -> dict[str, Any]:
        """Every subcommand by its name."""
        return {name: self.get_command(None, name) for name in SUBCOMMANDS}


def _load(name: str) -> Any:
    subcommand = SUBCOMMANDS[name]
    entry = getattr(import_module(f"wamplex.commands.{subcommand.module}"), subcommand.attribute)
    app = entry
    if not isinstance(entry, typer.Typer):
        app = typer.Typer(add_completion=False, rich_markup_mode=None)
        app.command(name)(entry)
    command = typer.main.get_command(app)
    command.short_help = subcommand.summary
    return command
