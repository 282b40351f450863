"""Copies the source beside its result."""

from __future__ import annotations

import filecmp
import secrets
import shutil
from pathlib import Path

from wamplex.core.deliver.request.naming import move_into_place


def copy_source(source: Path, folder: Path) -> None:
    """Copy a source into a folder, whole or not at all, unless it is there; no other file is replaced.

    Parameters
    ----------
    source : the source file
    folder : where the result was written

    Raises
    ------
    OSError : when it cannot be copied; nothing is left then
    """
    target = folder / source.name
    if source.parent.resolve() == folder.resolve() or _same(source, target):
        return
    partial = folder / f".wamplex-{secrets.token_hex(6)}.part"
    try:
        shutil.copy2(source, partial)
        move_into_place(partial, target)
    finally:
        partial.unlink(missing_ok=True)


def _same(source: Path, target: Path) -> bool:
    return target.is_file() and filecmp.cmp(source, target, shallow=False)
