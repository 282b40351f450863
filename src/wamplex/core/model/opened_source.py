"""Opens a source file once: its bytes as they were at that moment, safe from other programs.

A decoder that reads a path reads whatever lies there at each of its reads, and a library that maps a file into
memory crashes when another program shortens it. So a source is opened once, copied to where no other program
can write, and everything reads the copy.
"""

from __future__ import annotations

import os
import tempfile
import weakref
from pathlib import Path
from typing import BinaryIO, cast

from platformdirs import user_cache_path

from wamplex.core.base.errors import UnreachableFileError
from wamplex.core.base.regular_files import open_regular_file
from wamplex.core.model.source import Source, changed_error

# A larger file is copied to the disk instead of into memory.
_LARGEST_IN_MEMORY_BYTES = 400_000_000
_PIECE_BYTES = 1 << 24
_ATTEMPTS = 3


class OpenedSource:
    """A source that was opened; the copy lives as long as this object.

    Attributes
    ----------
    source : which file it was, and in which state
    path : the copy, for libraries that take a path; its name means nothing
    """

    def __init__(self, source: Source, descriptor: int) -> None:
        self.source = source
        self.path = Path(f"/proc/self/fd/{descriptor}")
        weakref.finalize(self, os.close, descriptor)

    @property
    def name(self) -> str:
        """Name of the user's file, for messages."""
        return self.source.path.name

    def open(self) -> BinaryIO:
        """The copy as a file of its own position, from its beginning."""
        return cast(BinaryIO, self.path.open("rb"))

    def read(self, max_bytes: int = -1) -> bytes:
        """The first bytes of the file; all of them without a limit."""
        with self.open() as file:
            return file.read(max_bytes)


def open_source(file: Path | Source) -> OpenedSource:
    """Open a source and copy its bytes.

    Parameters
    ----------
    file : a path; or a source, for the very file in the state that was looked at

    Raises
    ------
    UnreadablePictureError : when it is missing, cannot be read, or is not a regular file
    SourceChangedError : when it is no longer the given source, or is being written to
    """
    expected = file if isinstance(file, Source) else None
    path = file.path if isinstance(file, Source) else file
    for _ in range(_ATTEMPTS):
        descriptor = open_regular_file(path)
        try:
            before = Source.of_status(path, os.fstat(descriptor))
            if expected is not None and before != expected:
                raise changed_error(path)
            copy = _copy(path, descriptor, before.file_bytes)
            if Source.of_status(path, os.fstat(descriptor)) == before:
                return OpenedSource(before, copy)
            os.close(copy)  # half of one state and half of another
        finally:
            os.close(descriptor)
    raise changed_error(path)


def _copy(path: Path, descriptor: int, size: int) -> int:
    """Copy a file into memory, or a large one to the disk, where it has no name; the new descriptor."""
    copy = -1
    try:
        copy = os.memfd_create("source") if size <= _LARGEST_IN_MEMORY_BYTES else _unnamed_file()
        _fill(copy, descriptor)
        os.lseek(copy, 0, os.SEEK_SET)
        return copy
    except OSError as error:
        if copy >= 0:
            os.close(copy)
        reason = (error.strerror or "it cannot be read").lower()
        raise UnreachableFileError(f"{path.name} cannot be read: {reason}.") from error


def _unnamed_file() -> int:
    folder = user_cache_path("wamplex")
    folder.mkdir(parents=True, exist_ok=True)
    handle, name = tempfile.mkstemp(dir=folder, prefix="source-")
    os.unlink(name)
    return handle


def _fill(copy: int, descriptor: int) -> None:
    offset = 0
    while sent := os.sendfile(copy, descriptor, offset, _PIECE_BYTES):
        offset += sent
