"""Remembers the folders of results, to find them in later sessions."""

from __future__ import annotations

import json
from contextlib import suppress
from pathlib import Path

from platformdirs import user_state_path

from wamplex.core.base.atomic_files import write_atomically
from wamplex.core.base.bounded_parsing import parse_json

_MOST = 40


def known_folders() -> list[Path]:
    """The folders, the latest first; none where nothing can be read."""
    try:
        listed = parse_json(_path().read_bytes())
        return [Path(name) for name in listed if isinstance(name, str)][:_MOST]
    except (OSError, ValueError, TypeError):
        return []


def remember_folder(folder: Path) -> None:
    """A result went there. That it cannot be noted is no reason to stop."""
    listed = known_folders()
    if listed[:1] != [folder]:
        folders = [folder, *(other for other in listed if other != folder)][:_MOST]
        with suppress(OSError):
            _path().parent.mkdir(parents=True, exist_ok=True)
            write_atomically(_path(), json.dumps([str(one) for one in folders]).encode(), durable=False)


def _path() -> Path:
    return user_state_path("wamplex") / "result-folders.json"
