"""Brush strokes: paths in the coordinates of the upright source, drawn at whatever size is asked for."""

from __future__ import annotations

import json
import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.bounded_parsing import parse_json
from wamplex.core.base.errors import RecipeError
from wamplex.core.base.window import Window
from wamplex.core.geometry.placement import Placement

MOST_STROKES, MOST_POINTS = 5_000, 2_000_000
_Plane = NDArray[np.float32]


@dataclass(frozen=True)
class Stroke:
    """One stroke of the brush.

    Attributes
    ----------
    points : (x, y, pressure) in source pixels, pressure 0..1 scales the radius
    radius : source pixels
    hardness : 0 fades from the middle on, 1 has a hard rim
    opacity : 0..1
    adds : paints in; else it takes away
    """

    points: tuple[tuple[float, float, float], ...]
    radius: float
    hardness: float = 0.5
    opacity: float = 1.0
    adds: bool = True


def encode_points(strokes: tuple[Stroke, ...]) -> bytes:
    """Strokes as bytes: JSON, places to a hundredth of a source pixel."""
    rows = [
        {
            "points": [[round(x, 2), round(y, 2), round(p, 3)] for x, y, p in stroke.points],
            "radius": round(stroke.radius, 3),
            "hardness": round(stroke.hardness, 3),
            "opacity": round(stroke.opacity, 3),
            "adds": stroke.adds,
        }
        for stroke in strokes
    ]
    return json.dumps(rows, separators=(",", ":")).encode()


def decode_points(data: bytes) -> tuple[Stroke, ...]:
    """Decode points written by `encode_points`.

    Raises
    ------
    RecipeError : when it is no list of strokes
    """
    try:
        rows = parse_json(data)
        strokes = tuple(_stroke(row) for row in rows)
    except (ValueError, TypeError, KeyError) as error:
        raise RecipeError("The painted part of a mask is damaged.") from error
    if len(strokes) > MOST_STROKES or sum(len(stroke.points) for stroke in strokes) > MOST_POINTS:
        raise RecipeError(f"A mask has more than {MOST_STROKES} strokes. Put some of them into another layer.")
    return strokes


def _stroke(row: dict[str, object]) -> Stroke:
    points = tuple((float(x), float(y), float(p)) for x, y, p in row["points"])  # type: ignore[attr-defined]
    numbers = [float(row[name]) for name in ("radius", "hardness", "opacity")]  # type: ignore[arg-type]
    flat = [*numbers, *(value for point in points for value in point)]
    if not points or not all(math.isfinite(value) for value in flat) or numbers[0] <= 0:
        raise ValueError("a stroke needs finite numbers")
    return Stroke(points, numbers[0], numbers[1], numbers[2], bool(row["adds"]))


def draw_stroke(mask: _Plane, window: Window, strokes: tuple[Stroke, ...], place: Placement) -> None:
    """Draw strokes, in their order, into a window of a mask, in place.

    Parameters
    ----------
    mask : (window.height, window.width) float32 in 0..1
    place : from source pixels to pixels of the mask
    """
    for stroke in strokes:
        _draw_one(mask, window, stroke, place)


def _draw_one(mask: _Plane, window: Window, stroke: Stroke, place: Placement) -> None:
    points = [(*place.at(x, y), pressure * stroke.radius * place.scale) for x, y, pressure in stroke.points]
    radius_max = max(radius for _, _, radius in points) + 1
    box = _box(points, radius_max, window)
    if box is None:
        return
    covered = np.zeros((box.height, box.width), np.float32)
    for start, end in zip(points, points[1:] or points, strict=False):
        part = _box([start, end], max(start[2], end[2]) + 1, box)
        if part is not None:
            covered_part = covered[part.y - box.y : part.bottom - box.y, part.x - box.x : part.right - box.x]
            np.maximum(covered_part, _coverage(part, start, end, stroke.hardness), out=covered_part)
    covered *= np.float32(stroke.opacity)
    target = mask[box.y - window.y : box.bottom - window.y, box.x - window.x : box.right - window.x]
    if stroke.adds:
        target += (1 - target) * covered
    else:
        target *= 1 - covered


def _box(points: list[tuple[float, float, float]], radius: float, inside: Window) -> Window | None:
    left = max(inside.x, math.floor(min(p[0] for p in points) - radius))
    top = max(inside.y, math.floor(min(p[1] for p in points) - radius))
    right = min(inside.right, math.ceil(max(p[0] for p in points) + radius))
    bottom = min(inside.bottom, math.ceil(max(p[1] for p in points) + radius))
    return Window(left, top, right - left, bottom - top) if right > left and bottom > top else None


def _coverage(
    part: Window, start: tuple[float, float, float], end: tuple[float, float, float], hardness: float
) -> _Plane:
    """1 near the segment, 0 outside of its radius, falling smoothly where the brush is soft."""
    x = np.arange(part.x, part.right, dtype=np.float32) + np.float32(0.5 - start[0])
    y = np.arange(part.y, part.bottom, dtype=np.float32)[:, None] + np.float32(0.5 - start[1])
    right, under = end[0] - start[0], end[1] - start[1]
    length2 = right * right + under * under
    if length2 > 1e-9:
        steps = x * np.float32(right) + y * np.float32(under)
        along = np.clip(steps * np.float32(1 / length2), 0, 1)
        distance = np.hypot(x - along * np.float32(right), y - along * np.float32(under))
        radius: _Plane = np.float32(start[2]) + along * np.float32(end[2] - start[2])
    else:
        distance, radius = np.hypot(x, y), np.full_like(x, start[2])
    # A rim of a pixel at least, so that hard brushes have no stairs.
    soft = np.maximum((1 - np.float32(hardness)) * radius, 1)
    inside = np.clip((radius + np.float32(0.5) - distance) / soft, 0, 1)
    smooth: _Plane = inside * inside * (3 - 2 * inside)
    return smooth
