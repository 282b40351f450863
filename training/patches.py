"""Random pairs of small and large patches, cut where the pictures have detail."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import torch
from PIL import Image, ImageFilter

SOURCE_PX = 32
_CELL_PX = 64
# How real pictures were shrunk is unknown, so the network sees several filters, mostly bicubic.
_SHRINK_FILTERS = (
    (Image.Resampling.BICUBIC, 0.70),
    (Image.Resampling.LANCZOS, 0.10),
    (Image.Resampling.BOX, 0.10),
    (Image.Resampling.HAMMING, 0.10),
)


class PatchSource:
    """Draws training pairs from the prepared pictures, which it holds in memory."""

    def __init__(self, work: Path, seed: int) -> None:
        index = np.load(work / "cells.npz")
        self._pictures = [
            np.asarray(Image.open(work / "prepared" / n).convert("RGB")) for n in index["names"]
        ]
        self._cells = index["cells"]
        weights = self._cells[:, 3].astype(np.float64)
        self._cumulative = np.cumsum(weights / weights.sum())
        self.random = np.random.default_rng(seed)

    def batch(self, factor: int, count: int) -> tuple[torch.Tensor, torch.Tensor]:
        """``count`` pairs: (N, 3, 32, 32) and (N, 3, 32 f, 32 f), float32 in 0..1."""
        pairs = [self._pair(factor) for _ in range(count)]
        small = np.stack([p[0] for p in pairs]).transpose(0, 3, 1, 2)
        large = np.stack([p[1] for p in pairs]).transpose(0, 3, 1, 2)
        return (
            torch.from_numpy(np.ascontiguousarray(small)).float().div_(255),
            torch.from_numpy(np.ascontiguousarray(large)).float().div_(255),
        )

    def _pair(self, factor: int) -> tuple[np.ndarray, np.ndarray]:
        side = SOURCE_PX * factor
        while True:
            cell = self._cells[
                min(np.searchsorted(self._cumulative, self.random.random()), len(self._cells) - 1)
            ]
            picture = self._pictures[int(cell[0])]
            if min(picture.shape[:2]) >= side:
                break
        y, x = (self._place(int(cell[i + 1]), side, picture.shape[i]) for i in (0, 1))
        large = picture[y : y + side, x : x + side]
        turn = int(self.random.integers(8))
        large = np.rot90(large, turn % 4)
        if turn >= 4:
            large = large[:, ::-1]
        large = np.ascontiguousarray(large)
        return self._shrink(Image.fromarray(large)), large

    def _place(self, cell_start: int, side: int, limit: int) -> int:
        centre = cell_start + int(self.random.integers(_CELL_PX))
        return int(np.clip(centre - side // 2, 0, limit - side))

    def _shrink(self, large: Image.Image) -> np.ndarray:
        draw, kernel = self.random.random(), _SHRINK_FILTERS[0][0]
        for candidate, share in _SHRINK_FILTERS:
            if draw < share:
                kernel = candidate
                break
            draw -= share
        if kernel is not Image.Resampling.BICUBIC and self.random.random() < 0.3:
            large = large.filter(ImageFilter.GaussianBlur(float(self.random.uniform(0.3, 0.9))))
        return np.asarray(large.resize((SOURCE_PX, SOURCE_PX), kernel))
