"""Detects faces with a cascade of three small networks: upright frontal heads, also small ones."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from wamplex.core.analysis.faces.face import LEAST_FACE_PX, Face, suppress_overlaps
from wamplex.core.analysis.measuring_network import small_network
from wamplex.core.base.array_types import Rgb8
from wamplex.core.base.lazy_imports import cv2
from wamplex.core.base.progress import Progress

Rows = NDArray[np.float32]

# Larger pictures are shrunk to this long side first; the least face grows with them.
_WORK_SIDE_PX = 1280
_PYRAMID_STEP = 0.709
_WINDOW_PX = 12  # what the first network looks at at a time
_STRIP_PX = 128
# Verdicts from which each network passes a place on, as its authors set them.
_LEAST_VERDICT = (0.6, 0.7, 0.7)
_MOST_PROPOSALS = 600


def detect_by_cascade(pixels: Rgb8, progress: Progress) -> tuple[Face, ...]:
    """Faces from 16 pixels wide, the largest first.

    The cascade of Zhang, Zhang, Li and Qiao (2016): a network slides over a pyramid of the picture, two more
    look closer at what it proposes. Pictures of more than 1280 pixels on the long side are shrunk to that
    first, so that there the least face is 16 pixels of the shrunk picture.

    Parameters
    ----------
    pixels : (H, W, 3) uint8, sRGB

    Returns
    -------
    Boxes and eyes in pixels of the picture, each with a share of certainty 0 to 1.
    """
    progress = progress or Progress()
    scale = min(1.0, _WORK_SIDE_PX / max(pixels.shape[:2]))
    if scale < 1:
        size = (max(1, round(pixels.shape[1] * scale)), max(1, round(pixels.shape[0] * scale)))
        pixels = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    boxes = _proposed(pixels, progress)
    if len(boxes):
        boxes = _refined(pixels, boxes)
    progress.check()
    faces = _looked_at(pixels, boxes) if len(boxes) else []
    return tuple(sorted((face.scaled(1 / scale) for face in faces), key=lambda f: -f.width))


def _network(number: int) -> Any:
    return small_network(f"faces-{number}.onnx")


def _tensor(pixels: Rgb8) -> NDArray[np.float32]:
    result: NDArray[np.float32] = np.ascontiguousarray(pixels.transpose(2, 0, 1), np.float32)
    return (result - np.float32(127.5)) / np.float32(128)


def _proposed(pixels: Rgb8, progress: Progress) -> Rows:
    """Square boxes (x0, y0, x1, y1, verdict) in which there might be a face."""
    proposals = []
    scale = _WINDOW_PX / LEAST_FACE_PX
    while min(pixels.shape[:2]) * scale >= _WINDOW_PX:
        progress.check()
        size = (int(pixels.shape[1] * scale + 1), int(pixels.shape[0] * scale + 1))
        level = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
        shifts, verdicts = _slid_over(level)
        rows, columns = np.nonzero(verdicts >= _LEAST_VERDICT[0])
        left, top = (2 * columns + 1) / scale, (2 * rows + 1) / scale
        side = _WINDOW_PX / scale
        shift = shifts[:, rows, columns].T
        boxes = np.stack([left, top, left + side, top + side, verdicts[rows, columns]], axis=1)
        remaining = suppress_overlaps(boxes, 0.5)
        proposals.append(np.hstack([boxes, shift])[remaining])
        scale *= _PYRAMID_STEP
    every: Rows = np.concatenate(proposals).astype(np.float32) if proposals else np.zeros((0, 9), np.float32)
    every = every[suppress_overlaps(every[:, :5], 0.7)][:_MOST_PROPOSALS]
    return _square(_shifted(every[:, :5], every[:, 5:]))


def _slid_over(level: Rgb8) -> tuple[Rows, Rows]:
    """Shifts (4, h, w) and verdicts (h, w) of the first network, one for every second pixel each way.

    Strip by strip, which takes a quarter of the memory: each has the pixels that its last windows look at.
    """
    shifts, verdicts = [], []
    for top in range(0, level.shape[0] - _WINDOW_PX + 2, _STRIP_PX):  # the last window may lack a row
        strip = level[top : top + _STRIP_PX + _WINDOW_PX - 2]
        shifts_now, likely = _network(1).run(None, {"cuts": _tensor(strip)[np.newaxis]})
        shifts.append(shifts_now[0])
        verdicts.append(likely[0, 1])
    return np.concatenate(shifts, axis=1), np.concatenate(verdicts)


def _refined(pixels: Rgb8, boxes: Rows) -> Rows:
    shifts, verdicts = _network(2).run(None, {"cuts": _cuts(pixels, boxes, 24)})
    accepted = verdicts[:, 1] > _LEAST_VERDICT[1]
    boxes = np.hstack([boxes[accepted, :4], verdicts[accepted, 1:]])
    order = suppress_overlaps(boxes, 0.7)
    return _square(_shifted(boxes[order], shifts[accepted][order]))


def _looked_at(pixels: Rgb8, boxes: Rows) -> list[Face]:
    shifts, points, verdicts = _network(3).run(None, {"cuts": _cuts(pixels, boxes, 48)})
    accepted = verdicts[:, 1] > _LEAST_VERDICT[2]
    boxes = np.hstack([boxes[accepted, :4], verdicts[accepted, 1:]])
    width, height = (boxes[:, i + 2] - boxes[:, i] for i in (0, 1))
    across = points[accepted, :5] * width[:, None] + boxes[:, :1]
    down = points[accepted, 5:] * height[:, None] + boxes[:, 1:2]
    shifted = _shifted(boxes, shifts[accepted])
    return [_face(shifted[i], across[i], down[i]) for i in suppress_overlaps(shifted, 0.5, of_smaller=True)]


def _face(box: Rows, across: Rows, down: Rows) -> Face:
    x0, y0, x1, y1, verdict = (float(v) for v in box)
    eyes = sorted((float(across[i]), float(down[i])) for i in (0, 1))
    return Face(x0, y0, x1 - x0, y1 - y0, verdict, (eyes[0], eyes[1]))


def _cuts(pixels: Rgb8, boxes: Rows, side: int) -> NDArray[np.float32]:
    """Each box resized to ``side``; black where it reaches over the border: (N, 3, side, side)."""
    height, width = pixels.shape[:2]
    crops = np.zeros((len(boxes), 3, side, side), np.float32)
    for number, box in enumerate(boxes):
        x0, y0, x1, y1 = (int(v) for v in np.trunc(box[:4]))
        x1, y1 = max(x1, x0 + 1), max(y1, y0 + 1)
        cut = np.zeros((y1 - y0, x1 - x0, 3), np.uint8)
        left, top, right, bottom = max(x0, 0), max(y0, 0), min(x1, width), min(y1, height)
        if right > left and bottom > top:
            cut[top - y0 : bottom - y0, left - x0 : right - x0] = pixels[top:bottom, left:right]
        crops[number] = _tensor(cv2.resize(cut, (side, side), interpolation=cv2.INTER_AREA))
    return crops


def _shifted(boxes: Rows, shifts: Rows) -> Rows:
    """Boxes moved at each side by a share of their size."""
    size = np.stack([boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1]] * 2, axis=1)
    return np.hstack([boxes[:, :4] + shifts * size, boxes[:, 4:5]])


def _square(boxes: Rows) -> Rows:
    """The same middles, both sides as long as the longer."""
    centres = (boxes[:, :2] + boxes[:, 2:4]) / 2
    half = (boxes[:, 2:4] - boxes[:, :2]).max(axis=1, keepdims=True, initial=0) / 2
    return np.hstack([centres - half, centres + half, boxes[:, 4:5]])
