"""Portraits: small ones laid side by side so that patches can be cut, and those that are kept aside."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

SHEET_PX = 768
# Of the portraits at least this large, every third is measured on and never learned from.
_LARGE_PX, _EVERY = 240, 3


def kept_aside(portraits: list[np.ndarray]) -> tuple[list[np.ndarray], list[np.ndarray]]:
    """Those to learn from, and those to measure on."""
    large = [n for n, portrait in enumerate(portraits) if min(portrait.shape[:2]) >= _LARGE_PX]
    aside = set(large[::_EVERY])
    learned = [p for n, p in enumerate(portraits) if n not in aside]
    return learned, [portraits[n] for n in sorted(aside)]


def sheets(portraits: list[np.ndarray]) -> Iterator[np.ndarray]:
    """Sheets (768, 768, 3) uint8 of portraits (h, w, 3), in rows of like height, repeated to the end.

    The seams are edges like others: nothing in a small picture tells that something was cut there.
    """
    waiting = sorted(portraits, key=lambda p: -p.shape[0])
    while waiting:
        sheet = np.zeros((SHEET_PX, SHEET_PX, 3), np.uint8)
        y = 0
        while y < SHEET_PX:
            # What is left over of the last sheet is filled with the first portraits again.
            x, height = 0, 0
            while x < SHEET_PX:
                portrait = waiting.pop(0) if waiting else portraits[(x + y) % len(portraits)]
                part = portrait[: SHEET_PX - y, : SHEET_PX - x]
                height = height or part.shape[0]
                part = part[:height]
                sheet[y : y + len(part), x : x + part.shape[1]] = part
                x += part.shape[1]
            y += height
        yield sheet
