"""What a decision changes besides its own value, and what it is called."""

from __future__ import annotations

import os
from dataclasses import replace
from pathlib import Path

from wamplex.app.tray.decisions import Decisions
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.trials import Trials
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.layout import lay_on_sheet
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.geometry.size import Size
from wamplex.core.intake.formats import SUFFIXES

VALUES_OF = "values of"


def adapt_layout(entry: TrayEntry, framing: Framing, sheet: Sheet | None) -> Decisions:
    """Framing, sheet and size, which hang together."""
    assert entry.header is not None
    assert entry.size is not None
    width, height = entry.header.width, entry.header.height
    if sheet is None:
        size = Size(*framing.size(width, height), entry.size.factor, entry.size.density_ppi)
    else:
        placed = lay_on_sheet(framing, sheet, entry.size.density_ppi, width, height)
        framing, size = placed.framing, placed.size
    return replace(entry.decisions, framing=framing, sheet=sheet, factor=size.factor, density_ppi=size.density_ppi)


def trial_change_text(before: Trials, after: Trials) -> str:
    """Name of a change of trials, for undo."""
    if len(after.rows) != len(before.rows):
        return "another trial"
    if after.stamped != before.stamped:
        return "stamp"
    for trial in after.rows:
        old = before.find(trial.letter)
        if trial.struck != old.struck:
            return f"trial {trial.letter} put back" if old.struck else f"trial {trial.letter} struck"
        if trial.values != old.values:
            return f"{VALUES_OF} {trial.letter}"
    return "order of the trials"


def expand_folders(paths: list[Path]) -> list[Path]:
    """Files, and the pictures of folders among them, in the order of their names."""
    out: list[Path] = []
    for path in paths:
        if os.path.isdir(path):  # false also where a path is too long
            out += sorted(p for p in path.iterdir() if p.suffix.lower() in SUFFIXES)
        else:
            out.append(path)
    return out
