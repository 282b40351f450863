"""Small files that are whole or absent."""

from __future__ import annotations

import os
import secrets
from pathlib import Path


def write_whole(path: Path, data: bytes, *, durable: bool = True) -> None:
    """Write a file under a temporary name, then give it its own; what was there is replaced.

    Parameters
    ----------
    durable : wait until the bytes are on the disk, so that not even a power loss leaves half a file

    Raises
    ------
    OSError : when it cannot be written; nothing is left then
    """
    partial = path.with_name(f".{path.name}.{secrets.token_hex(4)}.partial")
    try:
        with partial.open("wb") as file:
            file.write(data)
            if durable:
                file.flush()
                os.fsync(file.fileno())
        os.replace(partial, path)
    except OSError:
        partial.unlink(missing_ok=True)
        raise


def set_aside(path: Path) -> Path:
    """Rename a file that cannot be used, so that it is in nobody's way and yet not lost; its new name."""
    for number in range(1, 1000):
        target = path.with_name(f"{path.name}.damaged-{number}")
        if not os.path.lexists(target):
            os.rename(path, target)
            return target
    return path
