"""Errors a user can cause, each with a sentence that says what happened and what to do."""

from __future__ import annotations

import sys
import traceback


class WamplexError(Exception):
    """Base of all errors whose text is shown to the user as it stands."""


class UnreadablePictureError(WamplexError):
    """A file could not be taken in as a picture."""


class ImageKindError(WamplexError, TypeError):
    """What a script gave is no image."""


class MissingFileError(UnreadablePictureError):
    """A file is not there."""


class SourceChangedError(WamplexError):
    """A file is no longer the one that was looked at."""


class SizeError(WamplexError):
    """A wanted size is impossible, or too large for the format, memory or disk."""


class DeliveryError(WamplexError):
    """A file could not be written or did not read back as it was meant."""


class RecipeError(WamplexError):
    """A recipe holds a value that cannot be used."""


class SettingsError(WamplexError):
    """Preferences cannot be saved; they count until the program ends."""


class ProjectError(WamplexError):
    """A project file cannot be read or written."""


class UpscalerError(WamplexError):
    """A network of the user's cannot be used."""


class ClusterError(WamplexError):
    """Other machines cannot be worked with."""


class CannotWorkNowError(WamplexError):
    """Nothing is wrong with the picture, but the work cannot be done now; later it may."""


class UnreachableFileError(UnreadablePictureError, CannotWorkNowError):
    """A file is there and cannot be read now: no permission, a failing disk, a network that is away."""


class NoRoomError(SizeError, CannotWorkNowError):
    """The disk has less room than the file needs."""


class FolderError(DeliveryError, CannotWorkNowError):
    """The folder cannot be written to now: full, read-only, or away."""


class UnverifiedFileError(DeliveryError, CannotWorkNowError):
    """A file does not read back as it was written: the disk is at fault, not the picture."""


class Cancelled(Exception):  # noqa: N818 - not an error: the user asked for it
    """The user cancelled the work."""


def user_message(error: Exception, no_memory: str) -> str:
    """The sentence that tells the user of an error.

    Parameters
    ----------
    error : caught where the work on a single picture or tile ends, and the next must still have its turn
    no_memory : the sentence for a lack of memory

    Returns
    -------
    A sentence.
    """
    if isinstance(error, WamplexError):
        return str(error)
    if isinstance(error, MemoryError):
        return no_memory
    # A fault of the program: whoever mends it needs to know where.
    traceback.print_exception(error, file=sys.stderr)
    description = f"{type(error).__name__}: {error}"
    return f"Wamplex failed here ({description}). Nothing was changed. The terminal shows the details."
