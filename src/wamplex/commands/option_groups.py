"""Groups of options: a command takes a value for each group instead of dozens of parameters."""

from __future__ import annotations

import inspect
import math
from collections.abc import Callable, Iterator
from dataclasses import MISSING, Field, fields, is_dataclass
from functools import wraps
from typing import Any, TypeVar, get_type_hints

import typer

Command = TypeVar("Command", bound=Callable[..., None])


def takes_option_groups(command: Command) -> Command:
    """Replace each parameter whose type is a dataclass by one option for each of its fields.

    Parameters
    ----------
    command : whose annotations typer would read; fields of groups are annotated in the same way

    Returns
    -------
    The command as typer is to see it.
    """
    hints = get_type_hints(command, include_extras=True)
    groups = {name: hint for name, hint in hints.items() if is_dataclass(hint) and isinstance(hint, type)}
    parameters: list[inspect.Parameter] = []
    for name, parameter in inspect.signature(command).parameters.items():
        if name in groups:
            parameters += _options(groups[name])
        else:
            parameters.append(parameter.replace(annotation=hints[name], kind=inspect.Parameter.KEYWORD_ONLY))

    @wraps(command)
    def run(**given: Any) -> None:
        refuse_infinite(given)
        values = {name: group(**{f.name: given.pop(f.name) for f in fields(group)}) for name, group in groups.items()}
        command(**given, **values)

    run.__signature__ = inspect.Signature(parameters)  # type: ignore[attr-defined]
    run.__annotations__ = {p.name: p.annotation for p in parameters}
    return run  # type: ignore[return-value]


def refuse_infinite(given: dict[str, Any]) -> None:
    """Refuse numbers that are none: nan, inf, and what is too large to be written.

    Parameters
    ----------
    given : values of the options, by their names

    Raises
    ------
    typer.BadParameter : with the option
    """
    for name, value in given.items():
        if isinstance(value, float) and not math.isfinite(value):
            option = name.removeprefix("old_").replace("_", "-")
            raise typer.BadParameter(f"{value:g} is not a finite number.", param_hint=f"--{option}")


def _options(group: type) -> Iterator[inspect.Parameter]:
    hints = get_type_hints(group, include_extras=True)
    for field in fields(group):
        yield inspect.Parameter(
            field.name, inspect.Parameter.KEYWORD_ONLY, default=_default(field), annotation=hints[field.name]
        )


def _default(field: Field[Any]) -> Any:
    return inspect.Parameter.empty if field.default is MISSING else field.default
