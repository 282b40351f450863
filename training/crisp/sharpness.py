"""How wide edges are, and how strong fine detail is, beside the truth."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

_LUMA = np.array([0.299, 0.587, 0.114], np.float32)
_EDGE_SHARE, _LEAST_GRADIENT = 0.02, 4.0  # the strongest edges of the truth, in levels a pixel
_REACH_PX, _STEP_PX = 5.0, 0.25
_BORDER_PX = 8


@dataclass(frozen=True)
class Sharpness:
    """Beside the truth; 1 is as much as there.

    Attributes
    ----------
    edge_width : median width of the truth's strongest edges: their range over their steepest gradient
    finest : strength of what a Gaussian of 1 px takes away
    fine : strength of what lies between Gaussians of 1 and 2 px
    """

    edge_width: float
    finest: float
    fine: float


def sharpness(result: np.ndarray, truth: np.ndarray) -> Sharpness:
    """Of an (H, W, 3) uint8 picture beside its truth."""
    made, meant = (p.astype(np.float32) @ _LUMA for p in (result, truth))
    edges = _edges(meant)
    bands = [_strength(made, *band) / _strength(meant, *band) for band in ((0.0, 1.0), (1.0, 2.0))]
    return Sharpness(_width(made, edges) / _width(meant, edges), *bands)


def _strength(luma: np.ndarray, inner_px: float, outer_px: float) -> float:
    inner = luma if inner_px == 0 else cv2.GaussianBlur(luma, (0, 0), inner_px)
    band = inner - cv2.GaussianBlur(luma, (0, 0), outer_px)
    return float(band[_BORDER_PX:-_BORDER_PX, _BORDER_PX:-_BORDER_PX].std())


def _edges(luma: np.ndarray) -> tuple[np.ndarray, ...]:
    """Rows, columns and normals of the crests of the strongest edges."""
    smooth = cv2.GaussianBlur(luma, (0, 0), 1.0)
    across, down = (cv2.Sobel(smooth, cv2.CV_32F, *order, scale=1 / 8) for order in ((1, 0), (0, 1)))
    strength = np.hypot(across, down)
    for cut in (np.s_[:_BORDER_PX], np.s_[-_BORDER_PX:], np.s_[:, :_BORDER_PX], np.s_[:, -_BORDER_PX:]):
        strength[cut] = 0
    least = max(float(np.quantile(strength, 1 - _EDGE_SHARE)), _LEAST_GRADIENT)
    rows, columns = np.nonzero((strength >= cv2.dilate(strength, np.ones((5, 5)))) & (strength > least))
    crest = strength[rows, columns]
    return rows, columns, across[rows, columns] / crest, down[rows, columns] / crest


def _width(luma: np.ndarray, edges: tuple[np.ndarray, ...]) -> float:
    rows, columns, x, y = edges
    places = np.arange(-_REACH_PX, _REACH_PX + 0.01, _STEP_PX)
    lines = [(np.asarray([columns + p * x], np.float32), np.asarray([rows + p * y], np.float32)) for p in places]
    profile = np.stack([cv2.remap(luma, *line, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)[0] for line in lines])
    middle = len(places) // 2
    slopes = np.abs(np.diff(profile, axis=0))[middle - 8 : middle + 8] / _STEP_PX
    return float(np.median(np.ptp(profile, axis=0) / np.maximum(slopes.max(axis=0), 0.3)))
