"""Whether a picture is a photograph, a drawing, lettering, pixel art, or made by a program."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from wamplex.core.analysis.content.palette import count_colours, has_dots, isolated_fraction
from wamplex.core.base.array_types import Rgb8
from wamplex.core.base.lazy_imports import cv2

ContentKind = Literal["photograph", "drawing", "lettering", "pixel art", "generated"]

_SIDE_PX = 900
_LEAST_STEP = 3.0  # levels between neighbours that count as alike, beside noise
_FLAT_SHARE = 0.68
# Shares that the commonest colours take. With six, 11 colour photographs all stayed below 0.68, 14 drawings
# above 0.83.
_SIX_COLOURS, _TWO_TONES = 0.83, 0.78
_LARGEST_GROUND = 0.9  # a picture of one colour, such as the night sky, is not drawn for that
_LEAST_SECOND, _LEAST_CONTRAST = 0.03, 90.0
_STROKES = 0.4
_CELL_PX = 24
_MOST_PIXEL_ART_COLOURS = 64
_MOST_SCAN_TONES, _LEAST_SCAN_PX = 16, 65 * 65
_MOST_ISOLATED = 0.08
# Cameras leave more noise than this in their smooth places; a program does not.
_CAMERA_NOISE_LEVELS = 0.75
_SMOOTH_SHARE = 0.40


@dataclass(frozen=True)
class ContentType:
    """What a picture seems to be, and the measurements behind it.

    Attributes
    ----------
    flat_fraction : of neighbouring pixels, those that are equal
    six_colours : share of the picture that its six commonest colours take
    colours : how many different colours there are, at most 4096
    likelihood : of its kind, where a network has read it from the pixels
    stated : sentence on how the file states that it was generated; empty where it does not
    """

    kind: ContentKind
    flat_fraction: float
    six_colours: float
    colours: int
    likelihood: float | None = None
    stated: str = ""


def classify_content(
    pixels: Rgb8, noise_levels: float, *, repeated_pixels: bool = False, compressed: bool = False
) -> ContentType:
    """Own definition, by a few questions in turn.

    Few colours in flat areas speak for a drawing, two tones in strokes all over for lettering, few exact
    colours in a small or pixel-repeated picture for pixel art; smooth areas with less noise than any camera
    leaves for a program; else it is a photograph.

    Parameters
    ----------
    pixels : (H, W, 3) uint8, sRGB
    noise_levels : measured noise
    repeated_pixels : whether it was enlarged by repeating pixels
    compressed : whether compression may have taken the noise away
    """
    height, width = pixels.shape[:2]
    top, left = max(0, (height - _SIDE_PX) // 2), max(0, (width - _SIDE_PX) // 2)
    part = np.ascontiguousarray(pixels[top : top + _SIDE_PX, left : left + _SIDE_PX])
    colours = min(count_colours(part), 4096)
    quiet = np.dstack([cv2.medianBlur(np.ascontiguousarray(part[..., c]), 3) for c in range(3)])
    flat = _flat_fraction(quiet, max(_LEAST_STEP, 1.2 * noise_levels))
    shares, distance = _commonest(quiet)
    six, two = sum(shares), shares[0] + shares[1]
    two_tones = two > _TWO_TONES and shares[1] > _LEAST_SECOND and distance > _LEAST_CONTRAST
    coloured = bool((np.ptp(quiet.astype(np.int16), axis=2) > 24).mean() > 0.01)
    few = two_tones or (coloured and six > _SIX_COLOURS and shares[0] < _LARGEST_GROUND)
    kind: ContentKind = "photograph"
    few_exact_colours = colours <= _MOST_PIXEL_ART_COLOURS and (repeated_pixels or max(height, width) <= 256)
    if few_exact_colours and (repeated_pixels or not _is_reduced(part, colours)):
        kind = "pixel art"
    elif few and flat > _FLAT_SHARE:
        kind = "lettering" if two_tones and _stroke_fraction(quiet) > _STROKES else "drawing"
    elif noise_levels < _CAMERA_NOISE_LEVELS and not compressed and _smooth_fraction(part) > _SMOOTH_SHARE:
        kind = "generated"
    return ContentType(kind, flat, six, colours)


def _is_reduced(pixels: Rgb8, colours: int) -> bool:
    """Whether a picture of few colours was a finer one before: greys of a scan or a fax, or dots for tones."""
    greys_only = colours <= _MOST_SCAN_TONES and int(np.ptp(pixels.astype(np.int16), axis=2).max()) == 0
    if greys_only and pixels[..., 0].size >= _LEAST_SCAN_PX:
        return True
    return isolated_fraction(pixels) > _MOST_ISOLATED or has_dots(pixels)


def _flat_fraction(pixels: Rgb8, max_step: float) -> float:
    steps = [np.abs(np.diff(pixels.astype(np.int16), axis=axis)).max(axis=2) for axis in (0, 1)]
    shares = [(step <= max_step).mean() for step in steps if step.size > 0]
    return float(np.mean(shares)) if shares else 1.0


def _commonest(pixels: Rgb8) -> tuple[list[float], float]:
    """Shares of the six commonest colours, each with its neighbours, and how far apart the first two are."""
    counts = np.bincount(_coarse_codes(pixels), minlength=1 << 15).reshape(32, 32, 32) / pixels[..., 0].size
    shares, places = [], []
    for _ in range(6):
        place = np.unravel_index(int(np.argmax(counts)), counts.shape)
        around = tuple(slice(max(0, int(n) - 1), int(n) + 2) for n in place)
        shares.append(float(counts[around].sum()))
        places.append(np.array(place) * 8.0)
        counts[around] = 0
    return shares, float(np.abs(places[0] - places[1]).max())


def _coarse_codes(pixels: Rgb8) -> NDArray[np.int32]:
    """One number for each pixel's colour, of which five bits a channel are left."""
    parts = (pixels >> 3).astype(np.int32)
    codes: NDArray[np.int32] = (parts[..., 0] << 10) | (parts[..., 1] << 5) | parts[..., 2]
    return codes.ravel()


def _stroke_fraction(pixels: Rgb8) -> float:
    """Share of cells in which both tones meet."""
    grey = cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY)
    cell = np.ones((_CELL_PX, _CELL_PX), np.uint8)
    span = cv2.dilate(grey, cell).astype(np.int16) - cv2.erode(grey, cell)
    return float((span > _LEAST_CONTRAST).mean())


def _smooth_fraction(pixels: Rgb8) -> float:
    """Share of the picture whose surroundings change slowly."""
    grey = cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY).astype(np.float32)
    detail = np.abs(grey - cv2.GaussianBlur(grey, (0, 0), 2.0))
    return float((cv2.blur(detail, (15, 15)) < 1.0).mean())
