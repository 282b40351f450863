"""Random pairs of small and large patches, cut where the pictures have detail."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import torch
from PIL import Image, ImageFilter

from training.damage import Damaged
from training.families import Family
from training.history import damage_drawing, damage_noisy_drawing, damage_photograph, soften
from training.places import prepared_dir
from wamplex.core.model.upscale_values import Values
from wamplex.core.upscale.stages.deconvolution import Deconvolution, deconvolve

# Damage is done to a larger patch which is then cut, so that the compression's grid lies anywhere, and what
# undoes it sees past the border.
_MARGIN_PX = 16
_AS_THEY_LIE = 0.7
_DAMAGES = {
    "soft": soften,
    "photograph": damage_photograph,
    "drawing": damage_drawing,
    "noisy drawing": damage_noisy_drawing,
}
_TRIES = 400
_CELL_PX = 64
# How real pictures were shrunk is unknown, so the network sees several filters, mostly bicubic.
_SHRINK_FILTERS = (
    (Image.Resampling.BICUBIC, 0.70),
    (Image.Resampling.LANCZOS, 0.10),
    (Image.Resampling.BOX, 0.10),
    (Image.Resampling.HAMMING, 0.10),
)


class PatchSource:
    """Draws training pairs from the prepared pictures of a family, which it holds in memory."""

    def __init__(self, work: Path, family: Family, seed: int) -> None:
        index = np.load(work / "cells.npz")
        self._family = family
        self._cells = index["cells"]
        self._collections = index["collections"]
        collections = self._collections[self._cells[:, 0].astype(int)]
        weights = np.zeros(len(self._cells))
        for collection, share in family.picture_shares.items():
            part = np.where(collections == collection, self._cells[:, 3], 0.0)
            weights += share * part / max(part.sum(), 1e-9)
        self._cumulative = np.cumsum(weights / weights.sum())
        used = set(self._cells[weights > 0, 0].astype(int))
        self._pictures = {
            i: np.asarray(Image.open(prepared_dir(work) / index["names"][i]).convert("RGB")) for i in used
        }
        self.random = np.random.default_rng(seed)

    def batch(self, factor: int, count: int) -> tuple[torch.Tensor, torch.Tensor]:
        """``count`` pairs: (N, planes, s, s) and (N, 3, s f, s f), float32 in 0..1, s the family's side."""
        side = self._family.patch_px
        pairs = [self._pair(factor) for _ in range(count)]
        small = torch.from_numpy(np.stack([seen for seen, _ in pairs]))
        if self._family.grained:
            small = torch.cat([small, random_grain(count, factor, side)], dim=1)
        return small, _tensor([large for _, large in pairs])

    def _pair(self, factor: int) -> tuple[np.ndarray, np.ndarray]:
        """What the network is given, (planes, s, s) float32, and the large patch, uint8."""
        side = self._family.patch_px
        seen = told_input if self._family.inputs > 3 else undone_input
        margin = 0 if self._family.damage == "none" else _MARGIN_PX
        large, _ = self.cut_with_collection((side + margin) * factor)
        if margin == 0:
            return seen(Damaged(self._shrink(Image.fromarray(large), side))), large
        damaged = _DAMAGES[self._family.damage](large, side + margin, self.random)
        # Most files are compressed as they lie, so that the compression's grid begins where cells begin.
        step = 2 if self.random.random() < _AS_THEY_LIE else 1
        y, x = step * self.random.integers(0, margin // step + 1, 2)
        truth = large[y * factor : (y + side) * factor, x * factor : (x + side) * factor]
        return seen(damaged)[:, y : y + side, x : x + side], truth

    def cut_with_collection(self, side: int) -> tuple[np.ndarray, str]:
        """A piece of a picture (side, side, 3) uint8, and the collection it is of."""
        for _ in range(_TRIES):
            place = np.searchsorted(self._cumulative, self.random.random())
            cell = self._cells[min(place, len(self._cells) - 1)]
            picture = self._pictures[int(cell[0])]
            if min(picture.shape[:2]) >= side:
                break
        else:
            raise ValueError(f"hardly any picture has {side} pixels a side")
        y, x = (self._place(int(cell[i + 1]), side, picture.shape[i]) for i in (0, 1))
        large = picture[y : y + side, x : x + side]
        turn = int(self.random.integers(8))
        large = np.rot90(large, turn % 4)
        large = np.ascontiguousarray(large[:, ::-1] if turn >= 4 else large)
        return large, str(self._collections[int(cell[0])])

    def _place(self, cell_start: int, side: int, limit: int) -> int:
        centre = cell_start + int(self.random.integers(_CELL_PX))
        return int(np.clip(centre - side // 2, 0, limit - side))

    def _shrink(self, large: Image.Image, side: int) -> np.ndarray:
        draw, kernel = self.random.random(), _SHRINK_FILTERS[0][0]
        for candidate, share in _SHRINK_FILTERS:
            if draw < share:
                kernel = candidate
                break
            draw -= share
        if kernel is not Image.Resampling.BICUBIC and self.random.random() < 0.3:
            large = large.filter(ImageFilter.GaussianBlur(float(self.random.uniform(0.3, 0.9))))
        return np.asarray(large.resize((side, side), kernel))


def told_input(damaged: Damaged) -> np.ndarray:
    """What a network that is told of the damage is given: (10, H, W) float32, see `Family.inputs`."""
    undone, source = undone_input(damaged), _planes(damaged.pixels)
    told = np.array([damaged.noise_plane, damaged.blocks_plane, damaged.blur, damaged.webp], np.float32)
    planes = np.broadcast_to(told[:, None, None], (len(told), *source.shape[1:]))
    return np.concatenate([undone, source, planes])


def undone_input(damaged: Damaged) -> np.ndarray:
    """What a network for clean pictures is given, (3, H, W) float32: softness that was told is undone."""
    source = _planes(damaged.pixels)
    if damaged.blur == 0:
        return source
    values = Values(
        blur=100 * damaged.blur,
        noise=min(100 * damaged.noise_plane, 100),
        compression=min(100 * damaged.blocks_plane, 100),
    )
    deconvolution = Deconvolution.of(values)
    if deconvolution is None:
        return source
    undone = deconvolve(source.transpose(1, 2, 0), deconvolution)
    return np.clip(undone, 0, 1).transpose(2, 0, 1)


def _planes(pixels: np.ndarray) -> np.ndarray:
    return np.ascontiguousarray(pixels.transpose(2, 0, 1)).astype(np.float32) / 255


def random_grain(count: int, factor: int, side: int) -> torch.Tensor:
    """(count, f², side, side) numbers distributed as those of `position_noise`."""
    return (torch.rand(count, factor * factor, side, side) - 0.5) * 12**0.5


def _tensor(pictures: list[np.ndarray]) -> torch.Tensor:
    stacked = np.stack(pictures).transpose(0, 3, 1, 2)
    return torch.from_numpy(np.ascontiguousarray(stacked)).float().div_(255)
