"""Walks the boxes of ISO base media files (ISO/IEC 14496-12, 4.2), which several kinds of picture are."""

from __future__ import annotations

from collections.abc import Iterator

_MOST_BOXES = 10_000


def iterate_boxes(data: bytes) -> Iterator[tuple[bytes, bytes]]:
    """Type and contents of each box, in order; ends quietly where the data do."""
    at = 0
    for _ in range(_MOST_BOXES):
        if at + 8 > len(data):
            return
        size, kind, head = int.from_bytes(data[at : at + 4], "big"), data[at + 4 : at + 8], 8
        if size == 1:
            size, head = int.from_bytes(data[at + 8 : at + 16], "big"), 16
        elif size == 0:  # to the end of the file
            size = len(data) - at
        if size < head:
            return
        yield kind, data[at + head : at + size]
        at += size


def find_boxes(data: bytes, path: tuple[bytes, ...]) -> Iterator[bytes]:
    """Contents of the boxes at a path of types; ``meta`` begins with a version (8.11.1)."""
    for kind, content in iterate_boxes(data):
        if kind != path[0]:
            continue
        if len(path) == 1:
            yield content
        else:
            yield from find_boxes(content[4:] if kind == b"meta" else content, path[1:])
