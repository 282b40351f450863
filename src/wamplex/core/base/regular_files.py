"""Opens files that the user named: the only module that does, so that no pipe, folder or odd name surprises anybody."""

from __future__ import annotations

import errno
import os
import stat
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from wamplex.core.base.errors import MissingFileError, UnreachableFileError, UnreadablePictureError

# What lies in the name itself, and does not pass.
_LASTING = (errno.ENAMETOOLONG, errno.ELOOP, errno.ENOTDIR, errno.ENXIO)


def open_regular_file(path: Path) -> int:
    """Open a file for reading, by its own descriptor; pipes, devices, sockets and folders are refused at once.

    Parameters
    ----------
    path : the file

    Returns
    -------
    A descriptor, which the caller closes.

    Raises
    ------
    UnreadablePictureError : with the reason
    """
    with name_open_errors(path):
        descriptor = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    kind = os.fstat(descriptor).st_mode
    if stat.S_ISREG(kind):
        return descriptor
    os.close(descriptor)
    if stat.S_ISDIR(kind):
        raise UnreadablePictureError(f"{path.resolve().name} is a folder. Choose the pictures in it.")
    raise UnreadablePictureError(f"{path.name} is a device or a pipe. Save it as a file first.")


def read_regular_file(path: Path, max_bytes: int = -1) -> bytes:
    """Read the first bytes of a file, all of them without a limit.

    Parameters
    ----------
    path : the file
    max_bytes : the most that is read

    Returns
    -------
    The bytes.

    Raises
    ------
    UnreadablePictureError : with the reason
    """
    with os.fdopen(open_regular_file(path), "rb") as file, name_open_errors(path):
        return file.read(max_bytes)


@contextmanager
def name_open_errors(path: Path) -> Iterator[None]:
    """Turn what keeps a file from being opened into a sentence.

    Parameters
    ----------
    path : the file
    """
    name = path.name or str(path)
    try:
        str(path).encode()
        yield
    except UnicodeEncodeError:
        shown = os.fsencode(name).decode("utf-8", "replace")
        raise UnreadablePictureError(f"The name {shown} is not written in UTF-8. Rename it.") from None
    except ValueError:  # of the system calls
        raise UnreadablePictureError("A file name cannot contain a null character.") from None
    except FileNotFoundError:
        raise MissingFileError(f"{name}: file not found.") from None
    except OSError as error:
        reason = (error.strerror or "it cannot be read").lower()
        kind = UnreadablePictureError if error.errno in _LASTING else UnreachableFileError
        raise kind(f"{name} cannot be opened: {reason}.") from error
