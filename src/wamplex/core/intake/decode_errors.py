"""Explains in a sentence why a file cannot be decoded."""

from __future__ import annotations

import pyvips

from wamplex.core.base.errors import UnreadablePictureError
from wamplex.core.intake.decoders.image_file import NotDecodableError
from wamplex.core.model.opened_source import OpenedSource

DecodingErrors = (pyvips.Error, NotDecodableError, OSError)
_ENDS_EARLY = ("eof", "end of", "truncated", "premature", "short", "not enough")
# What libjpeg and libpng warn of although every pixel is there.
_HARMLESS = (
    "extraneous bytes before marker",
    "invalid sos parameters",
    "unknown jfif",
    "iccp:",
    "adobe marker",
)
_OWN_REASONS = ("it ", "its ")


def explain_decode_error(opened: OpenedSource, kind: str, error: Exception) -> UnreadablePictureError:
    """The error for the user."""
    text = str(error)
    if isinstance(error, NotDecodableError) and text.startswith(_OWN_REASONS):
        return UnreadablePictureError(
            f"{opened.name} cannot be read: {text}. Save it as an ordinary 8 or 16-bit RGB file."
        )
    if "data precision" in text:  # ITU-T T.81 allows 12 bits; hardly any decoder does
        return UnreadablePictureError(
            f"{opened.name} is a {kind} of 12 bits a channel, which cannot be read. Save it as a 16-bit TIFF."
        )
    size = opened.source.file_bytes
    lacks_end = _lacks_end(opened, kind)
    if isinstance(error, OSError) and error.strerror:  # without one it is a library's word for damage
        return UnreadablePictureError(f"{opened.name} cannot be opened: {error.strerror.lower()}.")
    if lacks_end or any(word in text.lower() for word in _ENDS_EARLY):
        return UnreadablePictureError(
            f"{opened.name} is damaged: the {kind} ends after {size:,} bytes, the rest is missing."
        )
    return UnreadablePictureError(f"{opened.name} is damaged: the {kind} cannot be decoded.")


def is_harmless(error: Exception) -> bool:
    """Whether a decoder only warned of something in the file that leaves all pixels whole."""
    lines = [line for line in str(error).lower().splitlines() if ":" in line]
    harmless = [line for line in lines if any(text in line for text in _HARMLESS)]
    return isinstance(error, pyvips.Error) and bool(harmless)


def _lacks_end(opened: OpenedSource, kind: str) -> bool:
    """Whether the mark that ends every file of this kind is missing."""
    size = opened.source.file_bytes
    with opened.open() as file:
        head = file.read(12)
        file.seek(max(0, size - 4096))
        tail = file.read()
    if kind == "JPEG":
        return b"\xff\xd9" not in tail
    if kind == "PNG":
        return b"IEND" not in tail
    return kind == "WebP" and size < int.from_bytes(head[4:8], "little") + 8
