"""Puts the program's files into the user's folders, and takes them away again."""

from __future__ import annotations

import os
import shutil
import subprocess
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from wamplex.core.base.atomic_files import write_atomically
from wamplex.core.base.resources import ICONS_DIR
from wamplex.desktop.entry import desktop_entry, mime_package
from wamplex.desktop.manual import bash_completion, manual_page

# Kept by desktops; without them a new entry shows at the next login.
_REFRESH = (
    ("update-desktop-database", "applications"),
    ("update-mime-database", "mime"),
    ("gtk-update-icon-cache", "icons/hicolor"),
)


def data_folder() -> Path:
    """XDG Base Directory Specification 0.8."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")


def desktop_files(program: Path, commands: Mapping[str, Any]) -> dict[Path, bytes]:
    """Files to install, by their path in the data folder."""
    return {
        Path("applications/wamplex.desktop"): desktop_entry(program).encode(),
        Path("icons/hicolor/scalable/apps/wamplex.svg"): (ICONS_DIR / "wamplex.svg").read_bytes(),
        Path("mime/packages/wamplex.xml"): mime_package().encode(),
        Path("man/man1/wamplex.1"): manual_page(commands).encode(),
        Path("bash-completion/completions/wamplex"): bash_completion(commands).encode(),
    }


def install(program: Path, commands: Mapping[str, Any]) -> list[Path]:
    """Write everything; what an earlier version wrote is replaced.

    Raises
    ------
    OSError : when a folder may not be written to
    """
    written = []
    for place, body in desktop_files(program, commands).items():
        path = data_folder() / place
        path.parent.mkdir(parents=True, exist_ok=True)
        write_atomically(path, body)
        written.append(path)
    _refresh()
    return written


def uninstall(program: Path, commands: Mapping[str, Any]) -> list[Path]:
    """Take everything away that `install` writes; folders stay, since others use them."""
    gone = []
    for place in desktop_files(program, commands):
        path = data_folder() / place
        if path.exists():
            path.unlink()
            gone.append(path)
    _refresh()
    return gone


def _refresh() -> None:
    for tool, folder in _REFRESH:
        place = data_folder() / folder
        if shutil.which(tool) and place.is_dir():
            subprocess.run([tool, str(place)], check=False, capture_output=True, timeout=60)
