"""The program's own source, parsed once for all tests that look at it."""

from __future__ import annotations

import ast
from functools import cache
from pathlib import Path


@cache
def parsed(path: Path) -> ast.Module:
    """The syntax tree of a module."""
    return ast.parse(path.read_text())


@cache
def all_nodes(path: Path) -> tuple[ast.AST, ...]:
    """Every node of a module."""
    return tuple(ast.walk(parsed(path)))
