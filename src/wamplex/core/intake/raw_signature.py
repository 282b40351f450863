"""Recognises raw camera files, which are mostly TIFFs with a small picture in front of the mosaic."""

from __future__ import annotations

from pathlib import Path
from typing import Any

# Suffixes, which count only where a whole folder is taken in, and the type that shared-mime-info 2.2 has for each.
RAW_TYPES: dict[str, str | None] = {
    ".dng": "image/x-adobe-dng",
    ".cr2": "image/x-canon-cr2",
    ".cr3": "image/x-canon-cr3",
    ".nef": "image/x-nikon-nef",
    ".nrw": "image/x-nikon-nrw",
    ".arw": "image/x-sony-arw",
    ".sr2": "image/x-sony-sr2",
    ".raf": "image/x-fuji-raf",
    ".orf": "image/x-olympus-orf",
    ".rw2": "image/x-panasonic-rw2",
    ".pef": "image/x-pentax-pef",
    ".srw": None,
    ".x3f": "image/x-sigma-x3f",
    ".3fr": None,
    ".iiq": None,
    ".rwl": None,
}
# Beginnings of files that are no TIFFs, or call themselves otherwise.
_SIGNATURES = (
    (0, b"FUJIFILMCCD-RAW"),
    (0, b"IIU\0"),
    (0, b"IIRO"),
    (0, b"IIRS"),
    (0, b"MMOR"),
    (0, b"FOVb"),
    (4, b"ftypcrx "),
)
_CANON_AT, _CANON = 8, b"CR"
# PhotometricInterpretation of a colour filter array (TIFF/EP, ISO 12234-2), and of linear raw (DNG 1.4).
_MOSAICS = (32803, 34892)
_PHOTOMETRIC, _DNG_VERSION, _SUB_IFDS = 262, 50706, 330
_TIFFS = (b"II*\0", b"MM\0*")
_MOST_PAGES = 16


def is_raw(path: Path) -> bool:
    """Whether a file holds what a sensor saw, rather than a picture.

    Raises
    ------
    OSError : when it cannot be read
    """
    with path.open("rb") as file:
        start = file.read(32)
    if any(start[at : at + len(text)] == text for at, text in _SIGNATURES):
        return True
    if start[:4] not in _TIFFS:
        return False
    if start[_CANON_AT : _CANON_AT + 2] == _CANON:
        return True
    import tifffile  # takes a tenth of a second to load, which most starts need not

    try:
        with path.open("rb") as handle, tifffile.TiffFile(handle) as file:
            return any(_holds_mosaic(page) for page in file.pages[:_MOST_PAGES])
    except Exception:  # a damaged TIFF is told of where it is decoded
        return False


def _holds_mosaic(page: Any) -> bool:
    tags = page.tags
    if _DNG_VERSION in tags or _photometric(tags) in _MOSAICS:
        return True
    if _SUB_IFDS not in tags:
        return False
    return any(_photometric(inner.tags) in _MOSAICS for inner in page.pages)


def _photometric(tags: Any) -> int:
    tag_entry = tags.get(_PHOTOMETRIC)
    return -1 if tag_entry is None else int(tag_entry.value)
