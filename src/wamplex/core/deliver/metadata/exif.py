"""Carries EXIF into TIFF files, which hold it as directories of their own rather than as a block.

Layouts follow TIFF 6.0 (1992) section 2 and CIPA DC-008 (Exif 2.32) section 4.6.
"""

from __future__ import annotations

import struct
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

EXIF_POINTER = 34665
GPS_POINTER = 34853
_ASCII, _LONG, _LONG8 = 2, 4, 16
# Text tags of the first directory: description, make, model, date, artist, copyright.
_FIRST_DIRECTORY_TEXT = (270, 271, 272, 306, 315, 33432)
# A maker note points into its own file, and the interoperability directory is of no use alone.
_NOT_CARRIED = (37500, 40965)
_UNIT_BYTES = {1: 1, 2: 1, 3: 2, 4: 4, 5: 4, 6: 1, 7: 1, 8: 2, 9: 4, 10: 4, 11: 4, 12: 8}
_UNITS_PER_VALUE = {5: 2, 10: 2}


@dataclass(frozen=True)
class ExifEntry:
    """One field: tag, field type, number of values, their bytes in little-endian order."""

    tag: int
    kind: int
    count: int
    data: bytes


@dataclass(frozen=True)
class ExifFields:
    """The directories of an EXIF block."""

    first: tuple[ExifEntry, ...] = ()
    exif: tuple[ExifEntry, ...] = ()
    gps: tuple[ExifEntry, ...] = ()


def parse_exif(block: bytes | None, *, everything: bool = False) -> ExifFields:
    """Fields of an EXIF block; what is damaged is left out.

    Parameters
    ----------
    block : with or without the head of its JPEG segment
    everything : whether fields that no other file can use are given too
    """
    if block is None:
        return ExifFields()
    body = block[6:] if block[:6] == b"Exif\0\0" else block
    if body[:4] not in (b"II*\0", b"MM\0*"):
        return ExifFields()
    order = "<" if body[:2] == b"II" else ">"
    try:
        first = _directory(body, order, struct.unpack_from(order + "I", body, 4)[0])
        exif, gps = (_directory(body, order, _pointer(first, tag)) for tag in (EXIF_POINTER, GPS_POINTER))
    except struct.error:
        return ExifFields()
    text = tuple(e for e in first if e.tag in _FIRST_DIRECTORY_TEXT and e.kind == _ASCII)
    return ExifFields(text, tuple(e for e in exif if everything or e.tag not in _NOT_CARRIED), gps)


def build_exif(fields: ExifFields) -> bytes:
    """Write an EXIF block, with the head of a JPEG segment.

    Parameters
    ----------
    fields : its directories

    Returns
    -------
    The block.
    """
    body = b"II*\0" + struct.pack("<I", 8)
    pointers = [(EXIF_POINTER, fields.exif), (GPS_POINTER, fields.gps)]
    own = [ExifEntry(tag, _LONG, 1, bytes(4)) for tag, entries in pointers if entries]
    first = tuple(e for e in fields.first if e.tag not in (EXIF_POINTER, GPS_POINTER))
    # The first directory is as long with its pointers still empty as with them.
    offset = len(body) + len(_serialised((*first, *own), len(body), wide=False))
    placed, parts = [], b""
    for tag, entries in pointers:
        if entries:
            offset += -offset % 8
            placed.append(ExifEntry(tag, _LONG, 1, struct.pack("<I", offset)))
            part = _serialised(entries, offset, wide=False)
            parts += part + bytes(-len(part) % 8)
            offset += len(part)
    head = body + _serialised((*first, *placed), len(body), wide=False)
    return b"Exif\0\0" + head + bytes(-len(head) % 8) + parts


def append_directories(path: Path, fields: ExifFields) -> None:
    """Add the EXIF and GPS directories to a little-endian TIFF of one page.

    They go to the end of the file, followed by a new first directory that points to them.
    """
    added = [(EXIF_POINTER, fields.exif), (GPS_POINTER, fields.gps)]
    if not any(entries for _, entries in added):
        return
    with path.open("r+b") as file:
        wide = file.read(4)[2:] == b"+\0"
        head, word, row_bytes = (8, "<Q", 20) if wide else (4, "<I", 12)
        file.seek(head)
        first_word = file.read(8 if wide else 4)
        file.seek(struct.unpack(word, first_word)[0])
        (count,) = struct.unpack("<Q" if wide else "<H", file.read(8 if wide else 2))
        rows = [file.read(row_bytes) for _ in range(count)]
        for tag, entries in added:
            if entries:
                offset = _aligned_end(file)
                file.write(_serialised(entries, offset, wide))
                kind = _LONG8 if wide else _LONG
                rows.append(struct.pack("<HH", tag, kind) + struct.pack(word, 1) + struct.pack(word, offset))
        offset = _aligned_end(file)
        rows.sort(key=lambda row: struct.unpack_from("<H", row)[0])
        file.write(struct.pack("<Q" if wide else "<H", len(rows)) + b"".join(rows) + bytes(8 if wide else 4))
        file.seek(head)
        file.write(struct.pack(word, offset))


def _aligned_end(file: BinaryIO) -> int:
    end = file.seek(0, 2)
    return end + file.write(bytes(-end % 8))


def _pointer(entries: tuple[ExifEntry, ...], tag: int) -> int:
    return next((struct.unpack("<I", e.data)[0] for e in entries if e.tag == tag and len(e.data) == 4), 0)


def _directory(body: bytes, order: str, offset: int) -> tuple[ExifEntry, ...]:
    if offset == 0:
        return ()
    (count,) = struct.unpack_from(order + "H", body, offset)
    entries = []
    for start in range(offset + 2, offset + 2 + 12 * count, 12):
        tag, kind, number = struct.unpack_from(order + "HHI", body, start)
        unit = _UNIT_BYTES.get(kind)
        if unit is None:
            continue
        length = unit * _UNITS_PER_VALUE.get(kind, 1) * number
        place = start + 8 if length <= 4 else struct.unpack_from(order + "I", body, start + 8)[0]
        data = body[place : place + length]
        if len(data) == length:
            entries.append(ExifEntry(tag, kind, number, data if order == "<" else _swapped(data, unit)))
    return tuple(entries)


def _swapped(data: bytes, unit: int) -> bytes:
    return b"".join(data[i : i + unit][::-1] for i in range(0, len(data), unit))


def _serialised(entries: tuple[ExifEntry, ...], offset: int, wide: bool) -> bytes:
    """A directory as it stands at ``offset``; ``wide`` for BigTIFF's 8-byte counts and offsets."""
    word, inline = ("<Q", 8) if wide else ("<I", 4)
    head = struct.pack("<Q" if wide else "<H", len(entries))
    after = offset + len(head) + len(entries) * (20 if wide else 12) + inline
    rows, values = b"", b""
    for entry in sorted(entries, key=lambda e: e.tag):
        rows += struct.pack("<HH", entry.tag, entry.kind) + struct.pack(word, entry.count)
        if len(entry.data) <= inline:
            rows += entry.data.ljust(inline, b"\0")
        else:
            rows += struct.pack(word, after + len(values))
            values += entry.data + bytes(-len(entry.data) % 8)
    return head + rows + bytes(inline) + values
