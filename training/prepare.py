"""Turns the fetched packages into clean training pictures and an index of detailed places in them."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator
from itertools import islice
from pathlib import Path

import numpy as np
from PIL import Image

from training.drawings import rasterised, shuffled
from training.fetch import unpacked_dir
from training.lettering import page
from training.places import held_out_dir, prepared_dir
from training.portraits import kept_aside, sheets
from training.sources import SOURCES, Collection, Source
from wamplex.core.analysis.faces.detection import find_faces

Image.MAX_IMAGE_PIXELS = None

LONG_SIDE_PX = 2000
CELL_PX = 64
MIN_SIDE_PX = 160
FLAT_GRADIENT = 1.2  # mean absolute gradient in 8-bit levels below which a cell teaches nothing
FACE_WEIGHT = 4.0  # eyes and mouths are few, and what everybody looks at first
DRAWINGS, HELD_OUT_DRAWINGS = 500, 14
PAGES, HELD_OUT_PAGES = 300, 6
_THUMB_PX = 120


class _Index:
    """The prepared pictures so far: written as they come, listed at the end."""

    def __init__(self, work: Path) -> None:
        self._work = work
        self._names: list[str] = []
        self._collections: list[str] = []
        self._cells: list[np.ndarray] = []
        self._listing: list[dict[str, object]] = []
        self.faces = 0
        prepared_dir(work).mkdir(parents=True, exist_ok=True)

    def add(self, collection: str, package: str, original: str, picture: np.ndarray, opaque: np.ndarray | None) -> bool:
        """Keep a picture; False when it has too little detail, or is here already."""
        name = f"{package.replace('/', '-')}-{hashlib.sha256(picture.tobytes()).hexdigest()[:16]}.png"
        places = _detailed_cells(picture, opaque)
        if len(places) < 4 or name in self._names:
            return False
        if collection in ("photographs", "portraits"):
            self.faces += _weigh_faces(picture, places)
        Image.fromarray(picture).save(prepared_dir(self._work) / name, compress_level=1)
        index = np.full((len(places), 1), len(self._names), np.float32)
        self._cells.append(np.hstack([index, places]))
        self._names.append(name)
        self._collections.append(collection)
        self._listing.append({"file": name, "collection": collection, "package": package, "original": original})
        return True

    def write(self) -> None:
        """``cells.npz``, a listing, and a contact sheet for each collection."""
        np.savez(
            self._work / "cells.npz",
            names=np.array(self._names),
            collections=np.array(self._collections),
            cells=np.vstack(self._cells).astype(np.float32),
        )
        (self._work / "listing.json").write_text(json.dumps(self._listing, indent=1))
        for collection in sorted(set(self._collections)):
            pairs = zip(self._names, self._collections, strict=True)
            paths = [prepared_dir(self._work) / n for n, c in pairs if c == collection]
            _contact_sheet(paths, self._work / f"contact-sheet-{collection}.jpg")
            print(f"{collection}: {len(paths)} pictures", flush=True)
        print(f"faces: {self.faces}", flush=True)


def prepare_all(work: Path) -> None:
    """Write ``prepared/*.png``, ``cells.npz`` (places worth learning from), listing and contact sheets.

    The held-out drawings and pages go to ``held-out/``.
    """
    index = _Index(work)
    for source in _sources("photographs", "paintings"):
        for path in chosen(work, source):
            picture, opaque = _load_shrunk(path, source.shrink)
            if picture is not None:
                index.add(source.collection, source.name, path.name, picture, opaque)
        print(f"{source.name} done", flush=True)
    _prepare_portraits(work, index)
    _prepare_drawings(work, index)
    _prepare_lettering(work, index)
    index.write()


def chosen(work: Path, source: Source) -> list[Path]:
    """The files of one fetched package that are used."""
    root = unpacked_dir(work, source)
    found = {path for pattern in source.patterns for path in root.glob(pattern) if path.is_file()}
    kept = [p for p in found if not any(word in str(p.relative_to(root)) for word in source.exclude)]
    return sorted(p for p in kept if not p.is_symlink())


def _sources(*collections: Collection) -> Iterator[Source]:
    return (source for source in SOURCES if source.collection in collections)


def _prepare_portraits(work: Path, index: _Index) -> None:
    for source in _sources("portraits"):
        learned, _ = kept_aside(_portraits(work, source))
        for number, sheet in enumerate(sheets(learned)):
            index.add("portraits", source.name, f"portraits {number}", sheet, None)


def held_out_portraits(work: Path) -> list[np.ndarray]:
    """RGB uint8 portraits that nothing is learned from."""
    return [p for source in _sources("portraits") for p in kept_aside(_portraits(work, source))[1]]


def _portraits(work: Path, source: Source) -> list[np.ndarray]:
    loaded = (_load_shrunk(path, source.shrink, min_px=0) for path in chosen(work, source))
    return [portrait for portrait, _ in loaded if portrait is not None]


def _prepare_drawings(work: Path, index: _Index) -> None:
    for source in _sources("drawings"):
        pictures = rasterised(shuffled(chosen(work, source)))
        kept_back = islice((p for _, p in pictures if len(_detailed_cells(p, None)) >= 40), HELD_OUT_DRAWINGS)
        _save_held_out(work, "drawing", kept_back)
        kept = 0
        while kept < DRAWINGS:
            path, picture = next(pictures)
            kept += index.add("drawings", source.name, path.name, picture, None)
        print(f"{source.name} done", flush=True)


def _prepare_lettering(work: Path, index: _Index) -> None:
    words = licence_words(work)
    faces = [face for source in _sources("faces") for face in chosen(work, source)]
    random = np.random.default_rng(40)
    for number in range(PAGES):
        index.add("lettering", "lettering", f"page {number}", page(words, faces, random), None)
    held_out = [face for source in _sources("held-out faces") for face in chosen(work, source)]
    _save_held_out(work, "page", (page(words, held_out, random) for _ in range(HELD_OUT_PAGES)))


def licence_words(work: Path) -> list[str]:
    """All words of the packages' licences, sorted."""
    return sorted({w for text in (work / "licences").rglob("*") if text.is_file() for w in _words(text)})


def _words(text: Path) -> list[str]:
    """The words of a licence: real text, at hand wherever the packages are."""
    return [w for w in text.read_text(errors="ignore").split() if w.isascii() and len(w) < 15][:4000]


def _save_held_out(work: Path, word: str, pictures: Iterator[np.ndarray]) -> None:
    held_out_dir(work).mkdir(parents=True, exist_ok=True)
    for number, picture in enumerate(pictures):
        Image.fromarray(picture).save(held_out_dir(work) / f"{word}-{number:02}.png")


def _load_shrunk(path: Path, shrink: float, min_px: int = MIN_SIDE_PX) -> tuple[np.ndarray | None, np.ndarray | None]:
    """The picture shrunk by at least ``shrink``, RGB uint8, and where it is opaque."""
    with Image.open(path) as opened:
        has_alpha = opened.mode in ("RGBA", "LA", "P")
        image = opened.convert("RGBA" if has_alpha else "RGB")
    width, height = image.size
    factor = max(shrink, max(width, height) / LONG_SIDE_PX)
    size = (round(width / factor), round(height / factor))
    if min(size) < min_px:
        return None, None
    opaque = None
    if has_alpha:
        alpha = np.asarray(image.getchannel("A").resize(size, Image.Resampling.BOX))
        opaque = alpha == 255
        image = image.convert("RGB")
    if factor > 1.0:
        image = image.resize(size, Image.Resampling.LANCZOS)
    return np.asarray(image), opaque


def _detailed_cells(picture: np.ndarray, opaque: np.ndarray | None) -> np.ndarray:
    """Rows (y, x, weight) of cells with detail; the weight grows with their mean gradient."""
    luma = picture.astype(np.float32) @ np.array([0.299, 0.587, 0.114], np.float32)
    gradient = np.zeros_like(luma)
    gradient[:, 1:] += np.abs(np.diff(luma, axis=1))
    gradient[1:, :] += np.abs(np.diff(luma, axis=0))
    rows = []
    for y in range(0, luma.shape[0] - CELL_PX + 1, CELL_PX):
        for x in range(0, luma.shape[1] - CELL_PX + 1, CELL_PX):
            if opaque is not None and not opaque[y : y + CELL_PX, x : x + CELL_PX].all():
                continue
            detail = float(gradient[y : y + CELL_PX, x : x + CELL_PX].mean())
            if detail >= FLAT_GRADIENT:
                rows.append((y, x, min(detail, 30.0) ** 0.75))
    return np.array(rows, np.float32).reshape(-1, 3)


def _weigh_faces(picture: np.ndarray, places: np.ndarray) -> int:
    """Make the cells that faces lie in weigh more; how many faces there are."""
    faces = find_faces(picture)
    for face in faces:
        across = (places[:, 1] + CELL_PX > face.x) & (places[:, 1] < face.x + face.width)
        down = (places[:, 0] + CELL_PX > face.y) & (places[:, 0] < face.y + face.height)
        places[across & down, 2] *= FACE_WEIGHT
    return len(faces)


def _contact_sheet(paths: list[Path], target: Path) -> None:
    columns = 24
    rows = -(-len(paths) // columns)
    sheet = Image.new("RGB", (columns * _THUMB_PX, rows * _THUMB_PX), "grey")
    for i, path in enumerate(paths):
        with Image.open(path) as image:
            image.thumbnail((_THUMB_PX - 4, _THUMB_PX - 4))
            sheet.paste(image, (i % columns * _THUMB_PX + 2, i // columns * _THUMB_PX + 2))
    sheet.save(target, quality=80)
