"""Small pieces of pictures of known history, from which the network that looks at pixels learns."""

from __future__ import annotations

import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from training.estimator import KIND_OF, SHARES, quantities
from training.families import Family
from training.history import apply, drawn
from training.patches import PatchSource

SIDE_PX = 128
_GRID_PX = 8
_FACTORS, _FACTOR_SHARES = (2, 3, 4, 5), (0.25, 0.25, 0.3, 0.2)
_A_SHARD = 1000


@dataclass(frozen=True)
class Glances:
    """Pieces and what is known of them.

    Attributes
    ----------
    pixels : (N, side, side, 3) uint8
    blocks : (N,) float32, known compression, 0 to 1: 1 less a hundredth of the JPEG quality; 0 where it is
        not known
    wanted : (N, Q) float32, what is to be found, in the order and the scales of `QUANTITIES`
    kinds : (N,) int64, place in `KINDS`; -1 where it is not asked
    """

    pixels: NDArray[np.uint8]
    blocks: NDArray[np.float32]
    wanted: NDArray[np.float32]
    kinds: NDArray[np.int64]


def glances_dir(work: Path) -> Path:
    """Folder of the pieces."""
    return work / "glances"


def collect(work: Path, minutes: float, seed: int) -> None:
    """Make pieces of random history for some minutes, with a single core; shards are added."""
    cv2.setNumThreads(1)
    folder = glances_dir(work)
    folder.mkdir(parents=True, exist_ok=True)
    source = PatchSource(work, Family("glances", picture_shares=SHARES), seed)
    end = time.monotonic() + minutes * 60
    number = 0
    while time.monotonic() < end:
        rows = [_piece(source) for _ in range(_A_SHARD)]
        pixels, blocks, wanted, kinds = (np.array(part) for part in zip(*rows, strict=True))
        path = folder / f"{seed}-{number:04}.npz"
        np.savez(path, pixels=pixels, blocks=blocks, wanted=wanted, kinds=kinds)
        number += 1
        print(f"{path.name}: {number * _A_SHARD} pieces", flush=True)


def glances(work: Path) -> Glances:
    """All pieces that were made."""
    shards = [np.load(path) for path in sorted(glances_dir(work).glob("*.npz"))]
    pixels, blocks, wanted, kinds = (
        np.concatenate([shard[part] for shard in shards]) for part in ("pixels", "blocks", "wanted", "kinds")
    )
    return Glances(pixels, blocks.astype(np.float32), wanted.astype(np.float32), kinds.astype(np.int64))


def _piece(source: PatchSource) -> tuple[np.ndarray, float, list[float], int]:
    random = source.random
    factor = int(random.choice(_FACTORS, p=_FACTOR_SHARES))
    beyond = SIDE_PX + _GRID_PX
    large, collection = source.cut_with_collection(beyond * factor)
    history = drawn(random, clean_share=0.15)
    small = apply(large, (beyond, beyond), history, random)
    # Mostly whole files, whose grid begins at the corner.
    y, x = (0, 0) if random.random() < 0.75 else random.integers(0, _GRID_PX + 1, 2)
    blocks = 0.0 if random.random() < 0.08 else history.blocks  # some were saved otherwise since
    return small[y : y + SIDE_PX, x : x + SIDE_PX], blocks, quantities(history), KIND_OF.get(collection, -1)


def turned(pixels: NDArray[np.uint8], random: np.random.Generator) -> NDArray[np.uint8]:
    """Pieces (N, s, s, 3), turned and mirrored by chance; the grid of eight stays where it is."""
    return np.stack(list(_each_turned(pixels, random)))


def _each_turned(pixels: NDArray[np.uint8], random: np.random.Generator) -> Iterator[NDArray[np.uint8]]:
    for piece in pixels:
        made = np.rot90(piece, int(random.integers(4)))
        yield made[:, ::-1] if random.random() < 0.5 else made
