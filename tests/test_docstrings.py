"""The core's facades, which the API reference lists, say what each parameter and each result is."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from tests.parsed_source import all_nodes

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "wamplex"
FACADES = re.findall(r"automodule:: (\S+)", (ROOT / "docs" / "api" / "index.rst").read_text())


def public_functions(module: str) -> Iterator[tuple[str, ast.FunctionDef, str]]:
    """Functions and methods with their docstrings; a constructor is described by its class."""
    tree = ast.parse((ROOT / "src" / Path(*module.split("."))).with_suffix(".py").read_text())
    for node in tree.body:
        if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
            yield node.name, node, ast.get_docstring(node) or ""
        if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
            for method in (inner for inner in node.body if isinstance(inner, ast.FunctionDef)):
                described = node if method.name == "__init__" else method
                if method.name == "__init__" or not method.name.startswith("_"):
                    yield f"{node.name}.{method.name}", method, ast.get_docstring(described) or ""


def missing(function: ast.FunctionDef, text: str) -> Iterator[str]:
    """What a docstring leaves out."""
    arguments = [*function.args.posonlyargs, *function.args.args, *function.args.kwonlyargs]
    for name in (argument.arg for argument in arguments if argument.arg not in ("self", "cls")):
        if not re.search(rf"^\s*(\w+, )*{name}(, \w+)* :", text, re.MULTILINE):
            yield name
    returns = "None" if function.returns is None else ast.unparse(function.returns)
    if returns not in ("None", "bool") and "Returns\n" not in text and "self" not in [a.arg for a in arguments]:
        yield "Returns"


def described(title: str, text: str) -> set[str]:
    """The names in a section of a docstring."""
    section = re.search(rf"^{title}\n-+\n(.*?)(^\w+\n-+$|\Z)", text, re.MULTILINE | re.DOTALL)
    groups = re.findall(r"^((?:\w+, )*\w+) :", section[1], re.MULTILINE) if section else []
    return {name for group in groups for name in group.split(", ")}


def argument_names(function: ast.FunctionDef) -> set[str]:
    arguments = [*function.args.posonlyargs, *function.args.args, *function.args.kwonlyargs]
    return {a.arg for a in [*arguments, function.args.vararg, function.args.kwarg] if a is not None}


def attribute_names(class_: ast.ClassDef) -> set[str]:
    """Fields, properties and whatever a class sets on itself."""
    nodes = list(ast.walk(class_))
    fields = {n.id for n in nodes if isinstance(n, ast.Name) and isinstance(n.ctx, ast.Store)}
    own = {n.attr for n in nodes if isinstance(n, ast.Attribute) and isinstance(n.ctx, ast.Store)}
    return fields | own | {n.name for n in nodes if isinstance(n, ast.FunctionDef)}


@pytest.mark.parametrize("module", FACADES)
def test_facades_describe_parameters_and_results(module: str) -> None:
    for name, function, text in public_functions(module):
        assert not list(missing(function, text)), name


@pytest.mark.parametrize("path", sorted(SOURCE.rglob("*.py")), ids=lambda path: str(path.relative_to(SOURCE)))
def test_docstrings_describe_nothing_that_is_gone(path: Path) -> None:
    for node in all_nodes(path):
        if isinstance(node, ast.FunctionDef):
            assert described("Parameters", ast.get_docstring(node) or "") <= argument_names(node), node.name
        elif isinstance(node, ast.ClassDef):
            text = ast.get_docstring(node) or ""
            constructor = next((n for n in node.body if isinstance(n, ast.FunctionDef) and n.name == "__init__"), None)
            if constructor is not None:
                assert described("Parameters", text) <= argument_names(constructor), node.name
            assert described("Attributes", text) <= attribute_names(node), node.name


def test_the_reference_lists_the_facades() -> None:
    assert len(FACADES) > 50
