"""The small picture that shows what a finding is about."""

from __future__ import annotations

import numpy as np

from wamplex.core.analysis.report.condition import Condition
from wamplex.core.analysis.report.finding import RowKey
from wamplex.core.analysis.report.sensor_exposure import SensorExposure
from wamplex.core.analysis.sample import Sample
from wamplex.core.base.array_types import Rgb8
from wamplex.core.base.lazy_imports import cv2
from wamplex.core.base.window import Window
from wamplex.core.colour.convert import to_srgb
from wamplex.core.geometry.size import MM_PER_INCH

WIDTH_PX, HEIGHT_PX = 64, 48
_NOISE_GAIN, _BLOCKS_GAIN = 4.0, 3.0
_CALM_LEVELS = 70  # an edge this strong would hide the blocks beside it
_DIM = 0.35
_PRINT_PPI = 300.0
_MARK = np.array([183, 121, 31], np.float32)


def evidence_crop(sample: Sample, condition: Condition, key: RowKey) -> Rgb8 | None:
    """(48, 64, 3) uint8 for one row of the sheet; None where there is nothing to show."""
    if key == "sensor":
        return None if condition.sensor is None else _spread(condition.sensor)
    if key == "compression":
        return _amplified(sample, _worst_blocks(sample), (32, 24), _BLOCKS_GAIN)
    if key == "noise":
        place = (condition.noise.x * condition.width, condition.noise.y * condition.height)
        return _amplified(sample, place, (64, 48), _NOISE_GAIN)
    if key in ("blur", "enlarged"):
        return _amplified(sample, _strongest_edge(sample), (32, 24), 1.0)
    if key == "palette" and condition.palette is not None:
        return _amplified(sample, (condition.palette.x, condition.palette.y), (32, 24), 1.0)
    if key == "clipping":
        return _clipped(sample, condition)
    if key == "faces" and condition.faces:
        face = condition.faces[0]
        side = 1.3 * max(face.width, face.height)
        centre = (face.x + face.width / 2, face.y + face.height / 2)
        return _fitted(_part(sample, centre, (round(side * WIDTH_PX / HEIGHT_PX), round(side))))
    if key == "subject" and condition.areas is not None and condition.areas.subject is not None:
        return _subject(sample, condition.areas.subject)
    if key == "borders" and condition.borders is not None:
        return _inside(sample, condition.borders)
    if key == "size":
        return _scale_to_a4(sample)
    return _boxed(sample.small) if key == "medium" else None


def _spread(exposure: SensorExposure) -> Rgb8:
    """How tones of red, green and blue are spread over twelve stops, black on the left."""
    canvas = np.full((HEIGHT_PX, WIDTH_PX, 3), 40, np.float32)
    heights = np.sqrt(exposure.spread / max(float(exposure.spread.max()), 1e-9)) * (HEIGHT_PX - 4)
    rows = np.arange(HEIGHT_PX)[::-1, None]
    for channel in range(3):
        canvas[..., channel] += np.where(rows < heights[channel][None, :], 175, 0)
    return np.clip(canvas, 0, 255).astype(np.uint8)


def _worst_blocks(sample: Sample) -> tuple[float, float]:
    """Place with the strongest block edges, in picture pixels."""
    luma = sample.luma
    if min(luma.shape) < 48:
        return (sample.picture.width / 2, sample.picture.height / 2)
    steps = np.minimum(np.abs(np.diff(luma, axis=1)), 30)
    across = steps[:, 7:-1:8] - 0.5 * (steps[:, 6:-2:8] + steps[:, 8::8][:, : steps[:, 7:-1:8].shape[1]])
    kernel = np.ones((24, 32), np.uint8)
    span = (cv2.dilate(luma, kernel) - cv2.erode(luma, kernel))[:, 7:-1:8][:, : across.shape[1]]
    marked = cv2.blur(across.astype(np.float32), (3, 24)) - 0.2 * np.maximum(span - _CALM_LEVELS, 0)
    row, column = np.unravel_index(int(np.argmax(marked[12:-12])), marked[12:-12].shape)
    return sample.centre.x + 8.0 * (float(column) + 1), sample.centre.y + float(row) + 12


def _strongest_edge(sample: Sample) -> tuple[float, float]:
    luma = cv2.GaussianBlur(sample.luma, (0, 0), 1.5)
    strength = np.abs(cv2.Sobel(luma, cv2.CV_32F, 1, 0)) + np.abs(cv2.Sobel(luma, cv2.CV_32F, 0, 1))
    row, column = np.unravel_index(int(np.argmax(strength)), strength.shape)
    return sample.centre.x + float(column), sample.centre.y + float(row)


def _part(sample: Sample, centre: tuple[float, float], size: tuple[int, int]) -> Rgb8:
    """Pixels around a place, as many as there are; (h, w, 3) sRGB."""
    picture = sample.seen  # as it was measured: white ink on white would show nothing
    width, height = min(size[0], picture.width), min(size[1], picture.height)
    x = int(min(max(centre[0] - width / 2, 0), picture.width - width))
    y = int(min(max(centre[1] - height / 2, 0), picture.height - height))
    place = Window(x, y, width, height)
    rows, columns = slice(place.y, place.bottom), slice(place.x, place.right)
    shown: Rgb8 = np.rint(to_srgb(picture.pixels[rows, columns], picture) * np.float32(255)).astype(np.uint8)
    return shown


def _amplified(sample: Sample, centre: tuple[float, float], size: tuple[int, int], gain: float) -> Rgb8:
    part = _part(sample, centre, size).astype(np.float32)
    mean = part.mean(axis=(0, 1))
    shown = mean + gain * (part - mean)
    return _fitted(np.clip(np.rint(shown), 0, 255).astype(np.uint8))


def _fitted(part: Rgb8) -> Rgb8:
    """Resized to the cut-out's size, pixel by pixel where it is enlarged."""
    larger = part.shape[1] < WIDTH_PX
    how = cv2.INTER_NEAREST if larger else cv2.INTER_AREA
    result: Rgb8 = cv2.resize(np.ascontiguousarray(part), (WIDTH_PX, HEIGHT_PX), interpolation=how)
    return result


def _clipped(sample: Sample, condition: Condition) -> Rgb8 | None:
    if max(condition.clipping.white, condition.clipping.black) < 0.005:
        return None
    shown = sample.shown
    cut = (shown.min(axis=2) >= 254) | (shown.max(axis=2) <= 1)
    marked = np.where(cut[..., None], _MARK, 96 + 0.5 * shown.mean(axis=2, keepdims=True))
    return _boxed(np.rint(marked).astype(np.uint8))


def _subject(sample: Sample, mask: np.ndarray) -> Rgb8:
    size = (sample.small.shape[1], sample.small.shape[0])
    weight = cv2.resize(mask, size, interpolation=cv2.INTER_LINEAR)[..., None]
    return _boxed(np.rint(sample.small * (_DIM + (1 - _DIM) * weight)).astype(np.uint8))


def _inside(sample: Sample, inside: Window) -> Rgb8:
    """The whole, with what is not part of it marked."""
    shown = sample.small.astype(np.float32)
    per_x, per_y = shown.shape[1] / sample.picture.width, shown.shape[0] / sample.picture.height
    mask = np.zeros(shown.shape[:2], bool)
    rows = slice(round(inside.y * per_y), round(inside.bottom * per_y))
    mask[rows, round(inside.x * per_x) : round(inside.right * per_x)] = True
    return _boxed(np.rint(np.where(mask[..., None], shown, _MARK)).astype(np.uint8))


def _scale_to_a4(sample: Sample) -> Rgb8:
    """The picture as it comes out at 300 ppi, on a sheet of A4."""
    width, height = (n / _PRINT_PPI * MM_PER_INCH for n in (sample.picture.width, sample.picture.height))
    sheet = (297.0, 210.0) if width >= height else (210.0, 297.0)
    scale = min((WIDTH_PX - 4) / sheet[0], (HEIGHT_PX - 4) / sheet[1])
    canvas = np.full((HEIGHT_PX, WIDTH_PX, 3), 119, np.uint8)
    for (wide, high), pixels in ((sheet, None), ((width, height), sample.small)):
        shrink = min(1.0, sheet[0] / wide, sheet[1] / high) * scale
        size = max(1, round(wide * shrink)), max(1, round(high * shrink))
        x, y = (WIDTH_PX - size[0]) // 2, (HEIGHT_PX - size[1]) // 2
        part = 255 if pixels is None else cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
        canvas[y : y + size[1], x : x + size[0]] = part
    return canvas


def _boxed(full: Rgb8) -> Rgb8:
    """The whole picture, fitted into the cut-out on mid-grey."""
    scale = min(WIDTH_PX / full.shape[1], HEIGHT_PX / full.shape[0])
    size = (max(1, round(full.shape[1] * scale)), max(1, round(full.shape[0] * scale)))
    canvas = np.full((HEIGHT_PX, WIDTH_PX, 3), 119, np.uint8)
    x, y = (WIDTH_PX - size[0]) // 2, (HEIGHT_PX - size[1]) // 2
    canvas[y : y + size[1], x : x + size[0]] = cv2.resize(full, size, interpolation=cv2.INTER_AREA)
    return canvas
