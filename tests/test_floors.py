"""Packages stand on floors: each imports only what lies below it, and no modules import in a circle."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from functools import cache
from graphlib import TopologicalSorter
from pathlib import Path

import pytest
from tests.parsed_source import all_nodes

SOURCE = Path(__file__).parents[1] / "src" / "wamplex"
LOOSE = "(loose)"  # the modules that lie directly in a package
# From the lowest floor to the highest.
FLOORS: dict[str, tuple[str, ...]] = {
    "wamplex": ("core", "library", "desktop", "app", "commands", LOOSE),
    "wamplex.core": (
        *("base", "geometry", "model", "colour", "raw", "intake", "upscale", "guests", "provenance"),
        *("analysis", "frames", "trial", "finish", "render", "readings", "preview", "known_answer", "deliver"),
        *("sheet_export", "workflow", LOOSE),
    ),
    "wamplex.core.intake": ("decoders", LOOSE),
    "wamplex.core.upscale": ("stages", "networks", "upscalers", "user_networks"),
    "wamplex.core.analysis": (LOOSE, "compression", "degradation", "faces", "content", "report", "suggestion"),
    "wamplex.core.deliver": ("request", "metadata", "writers", "verification", LOOSE),
    "wamplex.core.workflow": (
        *("subprocess", "decoding", "lineage", "orders", "queue", "recipe_transfer", "assessment", "folder_watch"),
        *("cluster", "projects", LOOSE),
    ),
    "wamplex.app": (
        *("shared", "workers", "tray", "bench", "assess", "size", "trial", "finish", "deliver"),
        *("recipes", "project", "window", "startup"),
    ),
    "wamplex.app.workers": (LOOSE, "files", "rendering", "output", "machine"),
}


def modules() -> dict[str, Path]:
    """Every module of the program by its name; packages count by what lies in them."""
    paths = (p for p in SOURCE.rglob("*.py") if p.name != "__init__.py")
    return {".".join(("wamplex", *p.relative_to(SOURCE).with_suffix("").parts)): p for p in paths}


def imported_modules(path: Path, known: dict[str, Path]) -> set[str]:
    """Modules of the program that a file imports, those for type checking included."""
    names: set[str] = set()
    for node in all_nodes(path):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            names |= {f"{node.module}.{alias.name}" for alias in node.names} | {node.module}
    return names & known.keys()


@cache
def imports() -> dict[str, set[str]]:
    """What each module imports."""
    known = modules()
    return {name: imported_modules(path, known) for name, path in known.items()}


def subpackages(path: Path) -> set[str]:
    """Names of the packages directly in a folder."""
    return {p.parent.name for p in path.glob("*/__init__.py")}


def floor_of(module: str, package: str) -> str | None:
    """The part of a package that a module lies in; None where it lies elsewhere."""
    if not module.startswith(f"{package}."):
        return None
    part, _, rest = module.removeprefix(f"{package}.").partition(".")
    return part if rest else LOOSE


def upward_imports(package: str) -> Iterator[str]:
    """Imports inside a package that go up, as sentences."""
    order = FLOORS[package]
    for module, names in imports().items():
        own = floor_of(module, package)
        for name in sorted(names):
            other = floor_of(name, package)
            if own and other and order.index(other) > order.index(own):
                yield f"{module} ({own}) imports {name} ({other}), which is above it"


@pytest.mark.parametrize("package", FLOORS)
def test_packages_import_only_what_lies_below(package: str) -> None:
    folder = SOURCE.parent.joinpath(*package.split("."))
    assert subpackages(folder) == set(FLOORS[package]) - {LOOSE}
    assert list(upward_imports(package)) == []


def test_every_package_with_packages_in_it_has_floors() -> None:
    nested = {p.parent for p in SOURCE.rglob("__init__.py") if subpackages(p.parent)}
    assert {".".join(p.relative_to(SOURCE.parent).parts) for p in nested} == FLOORS.keys()


def test_modules_import_in_no_circle() -> None:
    tuple(TopologicalSorter(imports()).static_order())  # raises CycleError, which names the modules


def test_folders_stay_small() -> None:
    assert len(list((SOURCE / "core").glob("[!_]*.py"))) <= 5
    for folder in {p.parent for p in SOURCE.rglob("__init__.py")}:
        if not subpackages(folder):
            assert len(list(folder.glob("[!_]*.py"))) <= 20, folder.name
