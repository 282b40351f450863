"""Whether a file states that a program generated its picture, before anything is guessed from the pixels."""

from __future__ import annotations

import re

from wamplex.core.model.picture import Picture
from wamplex.core.provenance.source_type import GENERATED, source_type

# The terms of the IPTC vocabulary stand as plain text in the assertions of a C2PA manifest (C2PA specification 2.1).
_TERMS = tuple(term.rsplit("/", 1)[-1].encode() for term in GENERATED)
_MANIFEST = b"c2pa"
# Text that generators put into a PNG (W3C PNG specification, tEXt and iTXt: keyword, zero byte, text): what was asked
# for, and the numbers it was made with. Common practice.
_ASKED_FOR = re.compile(
    rb"(?:tEXt|iTXt)(?:parameters|prompt|workflow)\x00.{0,8000}?(?:[Ss]eed|[Ss]teps|sampler)", re.DOTALL
)


def stated_generator(picture: Picture) -> str:
    """How a file states that its picture was generated.

    Parameters
    ----------
    picture : with its metadata and the start of its file

    Returns
    -------
    A sentence; empty where the file states nothing of the kind.
    """
    if source_type(picture.metadata.xmp) in GENERATED:
        return "The file states that it was generated (IPTC Digital Source Type)."
    start = picture.file_start
    if _MANIFEST in start and any(term in start for term in _TERMS):
        return "The file states that it was generated (C2PA manifest)."
    if start.startswith(b"\x89PNG") and _ASKED_FOR.search(start):
        return "The file holds the text that it was generated from."
    return ""
