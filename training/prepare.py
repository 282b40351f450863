"""Turns the fetched pictures into clean training pictures and an index of detailed places in them."""

from __future__ import annotations

import hashlib
import json
from pathlib import Path

import numpy as np
from PIL import Image

from training.fetch import unpacked_dir
from training.sources import SOURCES, Source

Image.MAX_IMAGE_PIXELS = None

LONG_SIDE_PX = 2000
CELL_PX = 64
MIN_SIDE_PX = 160
FLAT_GRADIENT = 1.2  # mean absolute gradient in 8-bit levels below which a cell teaches nothing
_THUMB_PX = 120


def prepare_all(work: Path) -> None:
    """Write ``prepared/*.png``, ``cells.npz`` (places worth learning from), a listing and a contact sheet."""
    out = work / "prepared"
    out.mkdir(parents=True, exist_ok=True)
    names: list[str] = []
    cells: list[np.ndarray] = []
    listing: list[dict[str, object]] = []
    seen: set[str] = set()
    for source in SOURCES:
        for path in _chosen(work, source):
            digest = hashlib.sha256(path.read_bytes()).hexdigest()[:16]
            if digest in seen:
                continue
            seen.add(digest)
            picture, opaque = _load_shrunk(path, source.shrink)
            if picture is None:
                continue
            places = _detailed_cells(picture, opaque)
            if len(places) < 4:
                continue
            name = f"{source.name}-{digest}.png"
            Image.fromarray(picture).save(out / name, compress_level=1)
            index = np.full((len(places), 1), len(names), np.float32)
            cells.append(np.hstack([index, places]))
            names.append(name)
            listing.append(
                {"file": name, "package": source.name, "original": path.name, "cells": len(places)}
            )
        print(
            f"{source.name}: {sum(1 for row in listing if row['package'] == source.name)} pictures",
            flush=True,
        )
    np.savez(work / "cells.npz", names=np.array(names), cells=np.vstack(cells).astype(np.float32))
    (work / "listing.json").write_text(json.dumps(listing, indent=1))
    _contact_sheet(out, names, work / "contact-sheet.jpg")


def _chosen(work: Path, source: Source) -> list[Path]:
    root = unpacked_dir(work, source)
    found = {path for pattern in source.patterns for path in root.glob(pattern) if path.is_file()}
    kept = [p for p in found if not any(word in str(p.relative_to(root)) for word in source.exclude)]
    return sorted(p for p in kept if not p.is_symlink())


def _load_shrunk(path: Path, shrink: float) -> tuple[np.ndarray | None, np.ndarray | None]:
    """The picture shrunk by at least ``shrink``, RGB uint8, and where it is opaque."""
    with Image.open(path) as opened:
        has_alpha = opened.mode in ("RGBA", "LA", "P")
        image = opened.convert("RGBA" if has_alpha else "RGB")
    width, height = image.size
    factor = max(shrink, max(width, height) / LONG_SIDE_PX)
    size = (round(width / factor), round(height / factor))
    if min(size) < MIN_SIDE_PX:
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


def _contact_sheet(folder: Path, names: list[str], target: Path) -> None:
    columns = 24
    rows = -(-len(names) // columns)
    sheet = Image.new("RGB", (columns * _THUMB_PX, rows * _THUMB_PX), "grey")
    for i, name in enumerate(names):
        with Image.open(folder / name) as image:
            image.thumbnail((_THUMB_PX - 4, _THUMB_PX - 4))
            sheet.paste(image, (i % columns * _THUMB_PX + 2, i // columns * _THUMB_PX + 2))
    sheet.save(target, quality=80)
