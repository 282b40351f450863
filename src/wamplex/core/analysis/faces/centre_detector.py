"""Detects faces by their centres with one network, including turned, bowed and half-hidden heads."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.analysis.faces.face import Face, suppress_overlaps
from wamplex.core.analysis.measuring_network import small_network
from wamplex.core.base.array_types import Rgb8
from wamplex.core.base.lazy_imports import cv2

_NETWORK = "faces-centres.onnx"
_CELL_PX = 4  # it says something about every fourth pixel
_WHOLE_PX = 32  # sides it takes are multiples
_LEAST_VERDICT = 0.3
# Small pictures are enlarged, since small faces are found seldom: of 100 of 25 pixels 20, enlarged so 88.
_MOST_ENLARGED = 4.0
_MOST_SHARED = 0.3  # of the union, as its authors set it


def detect_by_centres(pixels: Rgb8, side_px: int) -> tuple[Face, ...]:
    """Faces by the network of Xu et al., "CenterFace: joint face detection and alignment" (2019).

    It marks the middles of faces in the whole picture at once, and says for each how large the face is and
    where its eyes are.

    Parameters
    ----------
    pixels : (H, W, 3) uint8, sRGB
    side_px : long side that the picture is shrunk or enlarged to; it finds faces from some 12 pixels wide
        there, and takes 100 bytes of memory a pixel
    """
    scale = min(_MOST_ENLARGED, side_px / max(pixels.shape[:2]))
    size = (max(1, round(pixels.shape[1] * scale)), max(1, round(pixels.shape[0] * scale)))
    kernel = cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR
    pixels = cv2.resize(pixels, size, interpolation=kernel)
    heat, sizes, shifts, points = small_network(_NETWORK).run(None, {"picture": _tensor(pixels)})
    rows, columns = np.nonzero(heat[0, 0] > _LEAST_VERDICT)
    high, wide = np.exp(sizes[0][:, rows, columns]) * _CELL_PX
    down, across = shifts[0][:, rows, columns]
    top = (rows + down + 0.5) * _CELL_PX - high / 2
    left = (columns + across + 0.5) * _CELL_PX - wide / 2
    boxes = np.stack([left, top, left + wide, top + high, heat[0, 0, rows, columns]], axis=1)
    # Of each eye how far down its box, then how far across.
    place = points[0][:4, rows, columns]
    eyes = np.stack([place[1] * wide + left, place[0] * high + top, place[3] * wide + left, place[2] * high + top])
    remaining = suppress_overlaps(boxes.astype(np.float32), _MOST_SHARED)
    return tuple(_face(boxes[i], eyes[:, i]).scaled(1 / scale) for i in remaining)


def _tensor(pixels: Rgb8) -> NDArray[np.float32]:
    """(1, 3, H, W) of whole multiples, black where there is no picture; levels 0 to 255."""
    height, width = (-(-n // _WHOLE_PX) * _WHOLE_PX for n in pixels.shape[:2])
    tensor = np.zeros((1, 3, height, width), np.float32)
    tensor[0, :, : pixels.shape[0], : pixels.shape[1]] = pixels.transpose(2, 0, 1)
    return tensor


def _face(box: NDArray[np.float32], eyes: NDArray[np.float32]) -> Face:
    x0, y0, x1, y1, verdict = (float(v) for v in box)
    ax, ay, bx, by = (float(v) for v in eyes)
    first, second = sorted(((ax, ay), (bx, by)))
    return Face(x0, y0, x1 - x0, y1 - y0, verdict, (first, second))
