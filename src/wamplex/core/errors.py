"""Errors a user can cause, each with a sentence that says what happened and what to do."""

from __future__ import annotations


class WamplexError(Exception):
    """Base of all errors whose text is shown to the user as it stands."""


class UnreadablePictureError(WamplexError):
    """A file could not be taken in as a picture."""


class SizeError(WamplexError):
    """A wanted size is impossible, or too large for the format, memory or disk."""


class DeliveryError(WamplexError):
    """A file could not be written or did not read back as it was meant."""


class RecipeError(WamplexError):
    """A recipe holds a value that cannot be used."""


class Cancelled(Exception):  # noqa: N818 - not an error: the user asked for it
    """The user cancelled the work."""
