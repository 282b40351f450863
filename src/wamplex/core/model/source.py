"""Which file is meant: its path, together with what tells whether it is still the same file."""

from __future__ import annotations

import hashlib
import os
import stat
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from wamplex.core.base.errors import SourceChangedError, UnreadablePictureError
from wamplex.core.base.regular_files import name_open_errors, open_regular_file


@dataclass(frozen=True)
class Source:
    """A file as it was when it was looked at.

    Attributes
    ----------
    file_bytes : its size
    mtime_ns : when it was written last, in nanoseconds since 1970
    """

    path: Path
    file_bytes: int
    mtime_ns: int

    @staticmethod
    def of(path: Path) -> Source:
        """Look at a file as it is now.

        Parameters
        ----------
        path : the file

        Returns
        -------
        Path, size and time of the file.

        Raises
        ------
        UnreadablePictureError : when it is missing, cannot be opened or is not a regular file
        """
        with name_open_errors(path):
            status = path.stat()
        if not stat.S_ISREG(status.st_mode) and not stat.S_ISDIR(status.st_mode):
            raise UnreadablePictureError(f"{path.name} is a device or a pipe. Save it as a file first.")
        return Source.of_status(path, status)

    @staticmethod
    def of_status(path: Path, status: os.stat_result) -> Source:
        """The file in the state that a status tells.

        Parameters
        ----------
        path : the file
        status : of the path, or of an open descriptor

        Returns
        -------
        Path, size and time of the file.
        """
        return Source(path, status.st_size, status.st_mtime_ns)

    def check(self) -> None:
        """See that the file is still the one that was looked at.

        Raises
        ------
        SourceChangedError : when it was written to since
        UnreadablePictureError : when it is gone
        """
        if Source.of(self.path) != self:
            raise changed_error(self.path)

    @property
    def digest(self) -> str:
        """SHA-256 of its bytes, in hexadecimal; worked out once.

        Raises
        ------
        SourceChangedError : when the file is another by now
        """
        return _digest(self)


@lru_cache(maxsize=256)
def _digest(source: Source) -> str:
    descriptor = open_regular_file(source.path)
    with os.fdopen(descriptor, "rb") as file, name_open_errors(source.path):
        states = [Source.of_status(source.path, os.fstat(descriptor))]
        digest = hashlib.file_digest(file, "sha256").hexdigest()
        states.append(Source.of_status(source.path, os.fstat(descriptor)))
    if any(state != source for state in states):
        raise changed_error(source.path)
    return digest


def changed_error(path: Path) -> SourceChangedError:
    """The error for a file that is not what it was.

    Parameters
    ----------
    path : the file

    Returns
    -------
    The error, to be raised.
    """
    return SourceChangedError(f"{path.name} has changed on the disk. Open it again first.")
