"""The manual page and the completion of commands, made from the commands themselves, so that both fit."""

from __future__ import annotations

from collections.abc import Mapping
from importlib.metadata import version
from typing import Any

from typer.core import TyperGroup, TyperOption

_SYNOPSIS = """.SH SYNOPSIS
.B wamplex
[\\fIFILE\\fR ...]
.br
.B wamplex
\\fICOMMAND\\fR [\\fIOPTIONS\\fR] ..."""


def manual_page(commands: Mapping[str, Any]) -> str:
    """``wamplex(1)`` in the man macros."""
    parts = [
        f'.TH WAMPLEX 1 "" "Wamplex {version("wamplex")}" "User commands"',
        ".SH NAME\nwamplex \\- enlarge pictures for printing and compare upscalers",
        _SYNOPSIS,
        ".SH DESCRIPTION\nOpens the files in a window. Commands work without a window.",
        ".SH COMMANDS",
    ]
    for name, command in _all(commands):
        parts.append(f".SS {_safe(name)}\n{_safe(command.get_short_help_str(400))}")
        for parameter in command.params:
            if isinstance(parameter, TyperOption):
                parts.append(f".TP\n\\fB{_safe(', '.join(parameter.opts))}\\fR\n{_safe(parameter.help or '')}")
    parts.append(".SH EXIT STATUS\n0 all done, 1 some failed, 2 wrong usage, 128 and more ended by a signal")
    return "\n".join(parts) + "\n"


def bash_completion(commands: Mapping[str, Any]) -> str:
    """Completes commands, their options, and files."""
    cases = "\n".join(f'        {name}) words="{" ".join(_options(command))}" ;;' for name, command in commands.items())
    return f"""# Completion of wamplex for bash.
_wamplex() {{
    local here="${{COMP_WORDS[COMP_CWORD]}}" words=""
    case "${{COMP_WORDS[1]}}" in
{cases}
    esac
    if [ "$COMP_CWORD" -eq 1 ]; then
        words="{" ".join(commands)} --demo --new-window --help --version"
    fi
    COMPREPLY=($(compgen -W "$words" -- "$here") $(compgen -f -- "$here"))
}}
complete -o filenames -F _wamplex wamplex
"""


def _all(commands: Mapping[str, Any]) -> list[tuple[str, Any]]:
    """Every command with its name, those of groups behind the group's."""
    all_commands: list[tuple[str, Any]] = []
    for name, command in commands.items():
        all_commands.append((name, command))
        if isinstance(command, TyperGroup):
            all_commands += [(f"{name} {inner}", one) for inner, one in _all(command.commands)]
    return all_commands


def _options(command: Any) -> list[str]:
    inner = list(command.commands) if isinstance(command, TyperGroup) else []
    own = [opt for p in command.params if isinstance(p, TyperOption) for opt in p.opts if opt.startswith("--")]
    return [*inner, *own, "--help"]


def _safe(text: str) -> str:
    """Hyphens and backslashes as roff wants them; no line begins like a request."""
    result = " ".join(text.split()).replace("\\", "\\e").replace("-", "\\-")
    return f"\\&{result}" if result.startswith((".", "'")) else result
