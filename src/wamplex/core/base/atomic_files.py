"""Small files that are written completely or not at all."""

from __future__ import annotations

import glob
import hashlib
import os
import secrets
from contextlib import suppress
from pathlib import Path

_MOST_STEM_BYTES = 200


def write_atomically(path: Path, data: bytes, *, durable: bool = True) -> None:
    """Write a file under a temporary name, then give it its own; what was there is replaced.

    Parameters
    ----------
    durable : wait until the bytes are on the disk, so that not even a power loss leaves half a file

    Raises
    ------
    OSError : when it cannot be written; nothing is left then
    """
    remove_leftovers(path)
    partial = path.with_name(f".{_stem(path.name)}.{os.getpid()}-{secrets.token_hex(3)}.partial")
    try:
        with partial.open("wb") as file:
            file.write(data)
            if durable:
                file.flush()
                os.fsync(file.fileno())
        os.replace(partial, path)
    except OSError:
        discard(partial)
        raise


def discard(path: Path) -> None:
    """Remove a file that is of no use any more, if the disk lets it be removed."""
    with suppress(OSError):
        path.unlink(missing_ok=True)


def remove_leftovers(path: Path) -> None:
    """Take away what programs began under this name that were killed before they were done."""
    stem = _stem(path.name)
    for begun in path.parent.glob(f".{glob.escape(stem)}.*.partial"):
        process = begun.name.removeprefix(f".{stem}.").partition("-")[0]
        if process.isascii() and process.isdigit() and not is_process_alive(int(process)):
            discard(begun)


def _stem(name: str) -> str:
    """A name that leaves room for more: Linux has at most 255 bytes for the whole."""
    if len(os.fsencode(name)) <= _MOST_STEM_BYTES:
        return name
    return hashlib.sha256(os.fsencode(name)).hexdigest()[:32]


def is_process_alive(process: int) -> bool:
    """Whether a process with this number is there."""
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True  # somebody else's
    except OverflowError:
        return False  # no process has such a number
    return True


def set_aside(path: Path) -> Path:
    """Rename a file that cannot be used, so that it is in nobody's way and yet not lost; its new name."""
    for number in range(1, 1000):
        target = path.with_name(f"{path.name}.damaged-{number}")
        if not os.path.lexists(target):
            os.rename(path, target)
            return target
    return path
