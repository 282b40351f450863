"""The second set of held-out pictures, of packages that nothing is learned from."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pyvips
from PIL import Image

from training.fetch import unpacked_dir
from training.lettering import page
from training.prepare import chosen, licence_words
from training.sources import SOURCES, Collection

LONG_SIDE_PX = 900  # of a truth; larger pictures are shrunk to it, which also makes them sharp
_SHEET_PX, _CUT_PX = 4200, 640
_CUT_AT = (0.84, 0.5)  # where the picture cards lie on a sheet of cards
PAGES = 4


def second_photographs(work: Path) -> dict[str, np.ndarray]:
    """RGB uint8 photographs: rooms, houses, a forest, streets at night, and people."""
    pictures = {}
    for path, shrink in _files(work, "second photographs"):
        package = path.relative_to(work / "packages").parts[0]
        image = Image.open(path).convert("RGB")
        by = max(shrink, max(image.size) / LONG_SIDE_PX)
        size = (round(image.width / by), round(image.height / by))
        pictures[f"{package.split('-')[0]} {path.stem}"] = np.asarray(image.resize(size, Image.Resampling.LANCZOS))
    return pictures


def second_drawings(work: Path) -> dict[str, np.ndarray]:
    """RGB uint8 pieces of six drawn decks of playing cards."""
    pictures = {}
    for path, _ in _files(work, "second drawings"):
        first = pyvips.Image.svgload(str(path))
        scale = _SHEET_PX / max(first.width, first.height)
        sheet = pyvips.Image.svgload(str(path), scale=scale, unlimited=True).flatten(background=255)
        pixels = sheet.colourspace("srgb").numpy()[..., :3]
        x, y = (int(at * n) - _CUT_PX // 2 for at, n in zip(_CUT_AT, (sheet.width, sheet.height), strict=True))
        pictures[path.stem] = np.ascontiguousarray(pixels[y : y + _CUT_PX, x : x + _CUT_PX])
    return pictures


def second_pages(work: Path) -> dict[str, np.ndarray]:
    """RGB uint8 pages set in faces that no network has seen."""
    words, random = licence_words(work), np.random.default_rng(41)
    faces = second_faces(work)
    return {f"page {n}": page(words, faces, random)[:_CUT_PX, :_CUT_PX] for n in range(PAGES)}


def second_faces(work: Path) -> list[Path]:
    """Typefaces that no network has seen."""
    return [path for path, _ in _files(work, "second faces")]


def _files(work: Path, collection: Collection) -> list[tuple[Path, float]]:
    sources = [source for source in SOURCES if source.collection == collection]
    assert all(unpacked_dir(work, source).exists() for source in sources), "fetch first"
    return [(path, source.shrink) for source in sources for path in chosen(work, source)]
