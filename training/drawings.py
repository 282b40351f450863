"""Rasterises vector drawings: clean edges at any size, which no scan or photograph of a drawing has."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pyvips

LONG_SIDE_PX = 900
_LARGEST_FILE_BYTES = 200_000  # larger ones are mostly traced photographs and take minutes
_LEAST_SIDE_PX = 300


def shuffled(paths: list[Path]) -> list[Path]:
    """The paths in an order that depends on their contents alone."""
    small = [path for path in paths if 0 < path.stat().st_size <= _LARGEST_FILE_BYTES]
    return sorted(small, key=lambda path: hashlib.sha256(path.read_bytes()).digest())


def rasterised(paths: list[Path]) -> Iterator[tuple[Path, np.ndarray]]:
    """Each drawing that can be read, on white: (H, W, 3) uint8, its long side 900 px."""
    for path in paths:
        try:
            first = pyvips.Image.svgload(str(path))
            scale = LONG_SIDE_PX / max(first.width, first.height)
            image = pyvips.Image.svgload(str(path), scale=scale)
            if min(image.width, image.height) < _LEAST_SIDE_PX:
                continue
            pixels = image.flatten(background=255).colourspace("srgb").numpy()
        except pyvips.Error:
            continue
        yield path, np.ascontiguousarray(pixels[..., :3])
