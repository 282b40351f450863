"""Runs all benchmarks, or those named, and a line for each figure: ``python -m benchmarks [NAME ...]``."""

from __future__ import annotations

import sys

from benchmarks.condition import condition_sheet
from benchmarks.export import export_overhead, memory
from benchmarks.faults.changing_sources import changing_sources
from benchmarks.faults.killed import faults
from benchmarks.faults.many import many
from benchmarks.faults.rewritten_in_window import rewritten_in_window
from benchmarks.faults.slow_disk import slow_disk
from benchmarks.faults.surroundings import surroundings
from benchmarks.faults.watched import watched_faults
from benchmarks.finish import finishing, painting
from benchmarks.raw import raw_files
from benchmarks.rendering import crispness, interpolation, learned, undo
from benchmarks.robustness import mutations
from benchmarks.table import Figure
from benchmarks.thousand import thousand
from benchmarks.window import pauses, sheet, start

_ALL = {
    "interpolation": interpolation,
    "learned": learned,
    "undo": undo,
    "crispness": crispness,
    "raw": raw_files,
    "export": export_overhead,
    "window": start,
    "pauses": pauses,
    "thousand": thousand,
    "sheet": sheet,
    "condition": condition_sheet,
    "painting": painting,
    "finishing": finishing,
    "memory": memory,
    "mutations": mutations,
    "faults": faults,
    "changing-sources": changing_sources,
    "rewritten": rewritten_in_window,
    "watched": watched_faults,
    "surroundings": surroundings,
    "many": many,
    "slow-disk": slow_disk,
}


def main() -> None:
    """Measure, and print each figure as soon as it is there: the whole takes a quarter of an hour."""
    for name in sys.argv[1:] or _ALL:
        print(f"measuring {name} ...", file=sys.stderr, flush=True)
        for figure in _ALL[name]():
            print(_line(figure), flush=True)


def _line(figure: Figure) -> str:
    sign = "≤" if figure.at_most else "≥"
    bound = "" if figure.bound is None else f"{sign} {figure.bound:.3g}"
    verdict = ("met" if figure.met else "NOT MET") if bound else ""
    return f"{figure.name:58} {figure.value:6.3g} {figure.unit:8} {bound:8} {verdict:8} {figure.detail}"


if __name__ == "__main__":
    main()
