"""Which file is meant: its path, together with what tells whether it is still the same file."""

from __future__ import annotations

import hashlib
import os
import stat
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from wamplex.core.base.errors import SourceChangedError, UnreadablePictureError


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
        try:
            str(path).encode()
            status = path.stat()
        except UnicodeEncodeError:
            shown = os.fsencode(path.name).decode("utf-8", "replace")
            raise UnreadablePictureError(f"The name {shown} is not written in UTF-8. Rename it.") from None
        except FileNotFoundError:
            raise UnreadablePictureError(f"{path.name}: file not found.") from None
        except OSError as error:
            reason = (error.strerror or "it cannot be read").lower()
            raise UnreadablePictureError(f"{path.name} cannot be opened: {reason}.") from error
        if not stat.S_ISREG(status.st_mode) and not stat.S_ISDIR(status.st_mode):
            raise UnreadablePictureError(f"{path.name} is a device or a pipe. Save it as a file first.")
        return Source(path, status.st_size, status.st_mtime_ns)

    def check(self) -> None:
        """See that the file is still the one that was looked at.

        Raises
        ------
        SourceChangedError : when it was written to since
        UnreadablePictureError : when it is gone
        """
        if Source.of(self.path) != self:
            raise SourceChangedError(f"{self.path.name} has changed on the disk. Open it again first.")

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
    source.check()
    with source.path.open("rb") as file:
        digest = hashlib.file_digest(file, "sha256").hexdigest()
    source.check()  # lest it was written to meanwhile
    return digest
