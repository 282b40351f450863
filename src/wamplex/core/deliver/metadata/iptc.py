"""IPTC-IIM records (IPTC Information Interchange Model 4.2), as JPEG and TIFF hold them."""

from __future__ import annotations

import struct
from collections.abc import Callable, Iterator
from dataclasses import dataclass

# Identifier of the JPEG segment that holds image resources, ended by a zero (IPTC-IIM 4.2, appendix).
_SIGNATURE = bytes.fromhex("50686f746f73686f7020332e3000")
_RESOURCE, _IIM_RESOURCE = b"8BIM", 0x0404
_MARK = 0x1C


@dataclass(frozen=True)
class Dataset:
    """One record: numbers of record and dataset, and all its bytes with their head."""

    record: int
    number: int
    data: bytes


def iim_records(block: bytes | None) -> bytes:
    """The bare records of a block, as TIFF's tag 33723 holds them.

    Parameters
    ----------
    block : a JPEG segment with image resources, or bare records

    Returns
    -------
    Records; empty where there are none.
    """
    if not block:
        return b""
    if block[0] == _MARK:
        return block
    body = block.removeprefix(_SIGNATURE)
    at = 0
    while body[at : at + 4] == _RESOURCE and at + 12 <= len(body):
        kind = struct.unpack_from(">H", body, at + 4)[0]
        name = 1 + body[at + 6]
        start = at + 6 + name + name % 2
        if start + 4 > len(body):
            break
        size = struct.unpack_from(">I", body, start)[0]
        if kind == _IIM_RESOURCE:
            return body[start + 4 : start + 4 + size]
        at = start + 4 + size + size % 2
    return b""


def jpeg_segment(records: bytes) -> bytes:
    """A JPEG segment's content that holds records.

    Parameters
    ----------
    records : bare records

    Returns
    -------
    Content of an APP13 segment.
    """
    head = _RESOURCE + struct.pack(">HHI", _IIM_RESOURCE, 0, len(records))
    return _SIGNATURE + head + records + bytes(len(records) % 2)


def filter_records(records: bytes, keeps: Callable[[Dataset], bool]) -> tuple[bytes, bool]:
    """Leave out some records.

    Parameters
    ----------
    records : bare records
    keeps : whether a record stays

    Returns
    -------
    The others, and whether any was left out.
    """
    datasets = list(_datasets(records))
    others = [dataset for dataset in datasets if keeps(dataset)]
    return b"".join(dataset.data for dataset in others), len(others) < len(datasets)


def _datasets(records: bytes) -> Iterator[Dataset]:
    at = 0
    while at + 5 <= len(records) and records[at] == _MARK:
        record, number, size = struct.unpack_from(">BBH", records, at + 1)
        head = 5
        if size & 0x8000:  # an extended dataset says how many bytes its size has
            length = size & 0x7FFF
            size = int.from_bytes(records[at + 5 : at + 5 + length], "big")
            head += length
        end = at + head + size
        if end > len(records):
            return
        yield Dataset(record, number, records[at:end])
        at = end
