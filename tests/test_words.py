"""Words that the code has given up for the field's terms do not come back as names."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

from tests.parsed_source import parsed

SOURCE = Path(__file__).parents[1] / "src" / "wamplex"
# Word by word of a name: `found_faces` has "found" in it, `foundation` has not.
GIVEN_UP = {
    *("told", "wanted", "taken", "trouble", "traits", "doubt", "veil", "lane", "pace", "portions", "tally"),
    *("acts", "shelf", "inks", "travelling", "takeaway", "mending", "plausible", "resaved", "glowing", "shouldered"),
    *("invention", "spared", "begins", "ovals", "undone", "beside", "apart", "said", "kept", "having", "alike", "laid"),
}
# Names with meanings of their own.
ALLOWED = {"takes_option_groups"}


def names(tree: ast.Module) -> Iterator[str]:
    """Names of modules' functions, classes, parameters, variables and attributes."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Name):
            yield node.id
        elif isinstance(node, ast.Attribute):
            yield node.attr
        elif isinstance(node, ast.arg):
            yield node.arg
        elif isinstance(node, ast.FunctionDef | ast.ClassDef):
            yield node.name


def words(name: str) -> set[str]:
    """The words of a name, in either style."""
    return set(re.sub(r"([A-Z])", r"_\1", name).lower().split("_"))


def test_words_given_up_do_not_come_back() -> None:
    found = set()
    for path in SOURCE.rglob("*.py"):
        found |= {(path.stem, path.stem) for word in words(path.stem) if word in GIVEN_UP}
        for name in names(parsed(path)):
            if words(name) & GIVEN_UP and name not in ALLOWED:
                found.add((path.stem, name))
    assert found == set()


def test_a_public_name_stands_for_one_thing() -> None:
    """But for the functions of scripts, which are called as the commands that do the same."""
    places: dict[str, set[str]] = {}
    for path in SOURCE.rglob("*.py"):
        for node in parsed(path).body if path.parent.name != "library" else ():
            if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
                places.setdefault(node.name, set()).add(path.stem)
    assert {name: where for name, where in places.items() if len(where) > 1 and name != "main"} == {}
