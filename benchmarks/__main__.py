"""Runs all benchmarks, or those named, and prints one table: ``python -m benchmarks [NAME ...]``."""

from __future__ import annotations

import sys

from rich.console import Console
from rich.table import Table

from benchmarks.export import export_overhead, memory
from benchmarks.rendering import interpolation, learned
from benchmarks.robustness import mutations
from benchmarks.window import start

_ALL = {
    "interpolation": interpolation,
    "learned": learned,
    "export": export_overhead,
    "window": start,
    "memory": memory,
    "mutations": mutations,
}


def main() -> None:
    """Measure and print."""
    table = Table("figure", "measured", "bound", "", "detail", box=None)
    for name in sys.argv[1:] or _ALL:
        for figure in _ALL[name]():
            sign = "≤" if figure.at_most else "≥"
            bound = "" if figure.bound is None else f"{sign} {figure.bound:g}"
            verdict = ("met" if figure.met else "NOT MET") if bound else ""
            table.add_row(figure.name, f"{figure.value:.3g} {figure.unit}", bound, verdict, figure.detail)
    Console(width=150).print(table)


if __name__ == "__main__":
    main()
