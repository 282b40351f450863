"""Numbers that describe a picture's finest structure, for the degradation estimator.

Everything is a share, a quantile or a mean, so that pictures of all sizes can be compared.
"""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.array_types import Plane
from wamplex.core.base.lazy_imports import cv2, fft
from wamplex.core.model.picture import Pixels

Numbers = NDArray[np.float32]

LEAST_SIDE_PX = 48
_QUANTILES = (0.02, 0.1, 0.25, 0.5, 0.75, 0.9, 0.97, 0.995)
_FEW_QUANTILES = (0.05, 0.25, 0.5, 0.9)
# Of luma and colour differences, ITU-R BT.601.
_PARTS = np.array([[0.299, 0.587, 0.114], [-0.169, -0.331, 0.5], [0.5, -0.419, -0.081]], np.float32)
_STEPS: tuple[tuple[float, ...], ...] = (
    (-1, 1),
    (1, -2, 1),
    (-1, 3, -3, 1),
    (-1, 0, 1),
    (-1, 0, 0, 1),
    (-1, 0, 0, 0, 0, 1),
)
_EDGE_SHARES = (0.02, 0.08)
_LEAST_EDGES = 24
_MOST_EDGES = 1500
# Places across an edge, in pixels from its crest.
_ACROSS_PX = (0.5, 1.0, 1.5, 2.0, 2.5, 3.0, 4.0)
_BLOCK_PX = 16
_RADIAL_BINS = 10
_MOST_BLOCKS = 1600


def compute_features(pixels: Pixels, compression: float) -> Numbers:
    """All numbers of a picture, float32, always as many.

    Parameters
    ----------
    pixels : (H, W, 3) float32 in 0..1, at least 48 pixels a side
    compression : known compression, 0 to 1: 1 less a hundredth of the JPEG quality

    Returns
    -------
    (248,) float32.
    """
    planes = [np.ascontiguousarray(plane) for plane in np.moveaxis(pixels @ _PARTS.T, 2, 0) * np.float32(255)]
    luma = planes[0]
    parts = [
        np.array([compression, math.log(luma.size) / 10], np.float32),
        _differences(luma, _STEPS, _QUANTILES),
        *(_differences(plane, _STEPS[:3], _FEW_QUANTILES) for plane in planes[1:]),
        *(_edges(luma, fraction) for fraction in _EDGE_SHARES),
        _spectra(luma),
        *(_spectra(plane) for plane in planes[1:]),
        _grid(luma),
        _surface(pixels, luma),
    ]
    return np.concatenate(parts).astype(np.float32)


def _differences(plane: Plane, steps: tuple[tuple[float, ...], ...], quantiles: tuple[float, ...]) -> Numbers:
    """Quantiles of how much neighbours differ, as logarithms; along rows and columns together."""
    differences = []
    for step in steps:
        kernel = np.array([step], np.float32)
        across = cv2.filter2D(plane, -1, kernel)[:, 3:-3]
        down = cv2.filter2D(plane, -1, kernel.T.copy())[3:-3]
        both = np.abs(np.concatenate([across.ravel(), down.ravel()]))
        differences.append(np.log1p(4 * np.quantile(both[:: max(1, both.size // 50_000)], quantiles)))
    return np.concatenate(differences)


def _edges(luma: Plane, fraction: float) -> Numbers:
    """The gradient across strong edges next to that at their crest, quartiles at each distance.

    Blur widens it, and an unsharp mask makes it negative at some distance.
    """
    down, across = (
        cv2.Sobel(luma, cv2.CV_32F, *order, ksize=3, scale=1 / 8, borderType=cv2.BORDER_REPLICATE)
        for order in ((0, 1), (1, 0))
    )
    strength = np.hypot(across, down)
    inside = np.zeros_like(strength)
    inside[5:-5, 5:-5] = strength[5:-5, 5:-5]
    minimum = max(float(np.quantile(strength[::2, ::2], 1 - fraction)), 1.5)
    rows, columns = np.nonzero((inside >= cv2.dilate(strength, np.ones((3, 3)))) & (inside >= minimum))
    count = 3 * len(_ACROSS_PX) + 2
    if len(rows) < _LEAST_EDGES:
        return np.zeros(count, np.float32)
    if len(rows) > _MOST_EDGES:
        some = np.linspace(0, len(rows) - 1, _MOST_EDGES).astype(int)
        rows, columns = rows[some], columns[some]
    crest = strength[rows, columns]
    x, y = across[rows, columns] / crest, down[rows, columns] / crest
    values = []
    # The plain step between two places, so that no filter of our own hides what is there.
    profile = {}
    for place in (0.0, *_ACROSS_PX):
        for side in (-1, 1):
            profile[side * place] = _sample_at(luma, columns + side * place * x, rows + side * place * y)
    centre_step = profile[0.5] - profile[-0.5]
    centre_step = np.where(np.abs(centre_step) < 0.5, 0.5, centre_step)
    places = (0.0, *_ACROSS_PX)
    for near, far in pairwise(places):
        steps = [(profile[far] - profile[near]), (profile[-near] - profile[-far])]
        slope = np.concatenate([step / (far - near) / centre_step for step in steps])
        values.append(np.quantile(slope, (0.25, 0.5, 0.75)))
    wide = np.log1p(np.quantile(np.abs(profile[4.0] - profile[-4.0]), (0.5,)))
    return np.concatenate([*values, wide, [len(rows) / luma.size * 50]])


def _sample_at(plane: Plane, x: Numbers, y: Numbers) -> Numbers:
    """Values between pixels, by cubic interpolation."""
    sampled = cv2.remap(
        plane,
        np.asarray(x, np.float32)[None],
        np.asarray(y, np.float32)[None],
        cv2.INTER_CUBIC,
        borderMode=cv2.BORDER_REPLICATE,
    )
    return np.asarray(sampled[0], np.float32)


def _spectra(plane: Plane) -> Numbers:
    """Radial spectra of blocks, as logarithms: of the calmest tenth, the middle and the busiest tenth."""
    rows, columns = (n // _BLOCK_PX for n in plane.shape)
    cut = plane[: rows * _BLOCK_PX, : columns * _BLOCK_PX]
    cells = cut.reshape(rows, _BLOCK_PX, columns, _BLOCK_PX).swapaxes(1, 2).reshape(-1, _BLOCK_PX, _BLOCK_PX)
    if len(cells) > _MOST_BLOCKS:
        cells = cells[np.linspace(0, len(cells) - 1, _MOST_BLOCKS).astype(int)]
    energy = np.square(fft.dctn(cells, axes=(1, 2), norm="ortho"))
    radius = np.hypot(*np.meshgrid(np.arange(_BLOCK_PX), np.arange(_BLOCK_PX))).astype(np.float32)
    bins = np.minimum(((radius - 1) / (_BLOCK_PX - 1) * _RADIAL_BINS).astype(int), _RADIAL_BINS - 1)
    bins[0, 0] = -1
    by_bin = np.stack([energy[:, bins == b].mean(axis=1) for b in range(_RADIAL_BINS)], axis=1)
    order = np.argsort(by_bin[:, :4].sum(axis=1))
    tenth = max(1, len(order) // 10)
    groups = (order[:tenth], order[len(order) // 2 - tenth // 2 :][: max(tenth, 1)], order[-tenth:])
    logarithms = [np.log(np.median(by_bin[group], axis=0) + 0.02) / 4 for group in groups]
    return np.concatenate(logarithms).astype(np.float32)


def _grid(luma: Plane) -> Numbers:
    """Traces of compression: steps on the 8-pixel grid, and coefficients quantised to zero."""
    values = []
    for plane in (luma, luma.T):
        steps = np.minimum(np.abs(np.diff(plane, axis=1)), 30).mean(axis=0)
        marks = np.array([steps[k::8].mean() for k in range(8)])
        values += [
            np.log1p(marks[7]) - np.log1p(np.median(marks)),
            np.log1p(marks.max()) - np.log1p(np.median(marks)),
        ]
    rows, columns = (n // 8 for n in luma.shape)
    cells = luma[: rows * 8, : columns * 8].reshape(rows, 8, columns, 8).swapaxes(1, 2).reshape(-1, 8, 8)
    cells = cells[:: max(1, len(cells) // 2000)]
    size = np.abs(fft.dctn(cells, axes=(1, 2), norm="ortho"))
    order = np.add.outer(np.arange(8), np.arange(8))
    for low, high in ((1, 2), (3, 4), (5, 6), (7, 8), (9, 11), (12, 14)):
        part = size[:, (order >= low) & (order <= high)]
        values += [float((part < 0.6).mean()), float((part < 2.0).mean())]
    return np.array(values, np.float32)


def _channel_maximum(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """The largest of three channels."""
    result: NDArray[np.uint8] = np.maximum(np.maximum(pixels[..., 0], pixels[..., 1]), pixels[..., 2])
    return result


def _surface(pixels: Pixels, luma: Plane) -> Numbers:
    """How flat and how many-coloured a picture is, which tells drawings and lettering from photographs."""
    eight = np.rint(np.clip(pixels, 0, 1) * 255).astype(np.uint8)
    quiet = np.dstack([cv2.medianBlur(np.ascontiguousarray(eight[..., c]), 3) for c in range(3)])
    steps = [
        _channel_maximum(cv2.absdiff(quiet[1:], quiet[:-1])),
        _channel_maximum(cv2.absdiff(quiet[:, 1:], quiet[:, :-1])),
    ]
    values = [float(np.mean([(step <= max_step).mean() for step in steps])) for max_step in (2, 5, 10)]
    codes = (quiet >> 4).astype(np.int32)
    counts = np.bincount(((codes[..., 0] << 8) | (codes[..., 1] << 4) | codes[..., 2]).ravel(), minlength=4096)
    shares = np.sort(counts / codes[..., 0].size)[::-1]
    values += [float(shares[0]), float(shares[:2].sum()), float(shares[:6].sum()), float(shares[:24].sum())]
    values.append(float((shares > 0.0005).sum()) / 100)
    span = cv2.dilate(luma, np.ones((15, 15))) - cv2.erode(luma, np.ones((15, 15)))
    values += [float(n) / 255 for n in np.quantile(span[::3, ::3], (0.1, 0.25, 0.5, 0.75, 0.9))]
    values += [float((span < 6).mean()), float((span > 90).mean())]
    values += [float(n) / 255 for n in np.quantile(luma[::3, ::3], (0.02, 0.25, 0.5, 0.75, 0.98))]
    minimum = np.minimum(np.minimum(quiet[..., 0], quiet[..., 1]), quiet[..., 2])
    colour = _channel_maximum(quiet) - minimum
    values += [float((colour > 24).mean()), float(colour.mean()) / 100]
    return np.array(values, np.float32)
