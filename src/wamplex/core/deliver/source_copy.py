"""Copies the source beside its result."""

from __future__ import annotations

import filecmp
import secrets
import shutil
from pathlib import Path

from wamplex.core.base.atomic_files import discard
from wamplex.core.deliver.request.naming import move_into_place
from wamplex.core.model.opened_source import open_source
from wamplex.core.model.source import Source


def copy_source(source: Source, folder: Path) -> None:
    """Copy a source into a folder, whole or not at all, unless it is there; no other file is replaced.

    Parameters
    ----------
    source : the source that was delivered; another file in its place is not copied
    folder : where the result was written

    Raises
    ------
    OSError : when it cannot be copied; nothing is left then
    SourceChangedError : when it was changed since
    """
    path = source.path
    target = folder / path.name
    if path.parent.resolve() == folder.resolve():
        return
    opened = open_source(source)
    if _same(opened.path, target):
        return
    partial = folder / f".wamplex-{secrets.token_hex(6)}.part"
    try:
        shutil.copyfile(opened.path, partial)
        shutil.copystat(path, partial)
        move_into_place(partial, target)
    finally:
        discard(partial)


def _same(source: Path, target: Path) -> bool:
    return target.is_file() and filecmp.cmp(source, target, shallow=False)
