"""Steps of screens, palettes, presses and odd resizes."""

from __future__ import annotations

import cv2
import numpy as np
from PIL import Image

from training.unlisted.step import Levels, Step, eight_bits, spread

_INTERPOLATIONS = {
    "nearest": cv2.INTER_NEAREST,
    "bilinear": cv2.INTER_LINEAR,
    "bicubic": cv2.INTER_CUBIC,
    "Lanczos": cv2.INTER_LANCZOS4,
}


def _palette(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    colours, dithered = int(random.choice((64, 128, 256))), bool(random.random() < 0.6)
    dither = Image.Dither.FLOYDSTEINBERG if dithered else Image.Dither.NONE
    picture = Image.fromarray(eight_bits(levels))
    palette = picture.quantize(colours, method=Image.Quantize.MEDIANCUT)
    reduced = picture.quantize(colours, palette=palette, dither=dither).convert("RGB")
    return np.asarray(reduced, np.float32), f"{colours} colours{', dithered' if dithered else ''}"


def _few_levels(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    step = 255 / (int(random.integers(16, 65)) - 1)
    return (np.rint(levels / step) * step).astype(np.float32), f"steps of {step:.1f} levels"


def _halved_colour(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    way = str(random.choice(("nearest", "bilinear")))
    turned = cv2.cvtColor(np.clip(levels, 0, 255) / np.float32(255), cv2.COLOR_RGB2YCrCb)
    height, width = levels.shape[:2]
    half = cv2.resize(turned[..., 1:], ((width + 1) // 2, (height + 1) // 2), interpolation=cv2.INTER_AREA)
    turned[..., 1:] = cv2.resize(half, (width, height), interpolation=_INTERPOLATIONS[way])
    return cv2.cvtColor(turned, cv2.COLOR_YCrCb2RGB) * np.float32(255), way


def _enlarged_and_back(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    """Larger by an odd factor, as a screen shows it, then back to the size it had."""
    factor, way = float(random.uniform(1.1, 2.5)), str(random.choice(list(_INTERPOLATIONS)))
    height, width = levels.shape[:2]
    large = cv2.resize(levels, (round(width * factor), round(height * factor)), interpolation=_INTERPOLATIONS[way])
    return cv2.resize(large, (width, height), interpolation=cv2.INTER_AREA), f"{factor:.2f}x {way}"


def _shrunk_and_back(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    """Smaller, then enlarged again: detail is lost, and edges are soft."""
    factor, way = float(random.uniform(1.15, 2.2)), str(random.choice(("bilinear", "bicubic", "Lanczos")))
    height, width = levels.shape[:2]
    small = (max(8, round(width / factor)), max(8, round(height / factor)))
    back = cv2.resize(
        cv2.resize(levels, small, interpolation=cv2.INTER_AREA), (width, height), interpolation=_INTERPOLATIONS[way]
    )
    return back, f"{factor:.2f}x {way}"


def _interlaced(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    """Two fields, the second a little later; shown by weaving or by doubling one of them."""
    woven, px = bool(random.random() < 0.5), int(random.integers(1, 4))
    shown = levels.copy()
    if woven:
        shown[1::2] = np.pad(levels, ((0, 0), (px, 0), (0, 0)), mode="edge")[1::2, :-px]
        return shown, f"woven, moved by {px} px"
    even = levels[0::2]
    return cv2.resize(even, levels.shape[1::-1], interpolation=cv2.INTER_LINEAR), "one field, doubled"


def _halftone(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    """Clustered dots at four angles, as presses print; scanned at some pixels a dot."""
    pitch, soft = spread(random, 2.5, 6.0), spread(random, 0.6, 1.2)
    height, width = levels.shape[:2]
    y, x = np.mgrid[:height, :width].astype(np.float32)
    printed = np.empty_like(levels)
    for channel, degrees in enumerate((15, 75, 45)):
        turn = np.radians(degrees)
        u, v = x * np.cos(turn) + y * np.sin(turn), y * np.cos(turn) - x * np.sin(turn)
        screen = np.cos(2 * np.pi * u / pitch) + np.cos(2 * np.pi * v / pitch)
        # As thresholds that are all equally frequent, so that tones stay as they were.
        threshold = np.searchsorted(np.sort(screen.ravel()), screen) / screen.size
        edge = (np.clip(levels[..., channel], 0, 255) / 255 - threshold) * 4 + 0.5
        printed[..., channel] = np.clip(edge, 0, 1) * 255
    scanned = cv2.GaussianBlur(printed, (0, 0), soft * pitch / 3)
    return np.asarray(scanned), f"{pitch:.1f} px a dot"


def _paper(levels: Levels, random: np.random.Generator) -> tuple[Levels, str]:
    sigma, grain = random.uniform(0.01, 0.05), spread(random, 0.6, 3.0)
    texture = cv2.GaussianBlur(random.standard_normal(levels.shape[:2]).astype(np.float32), (0, 0), grain)
    texture = 1 + sigma * texture / texture.std()
    return (levels * texture[..., None]).astype(np.float32), f"{100 * sigma:.0f} %, {grain:.1f} px"


SCREENS = (
    Step("palette", _palette),
    Step("few levels", _few_levels, 0.4),
    Step("halved colour", _halved_colour),
    Step("enlarged and back", _enlarged_and_back),
    Step("shrunk and back", _shrunk_and_back, 1.5),
    Step("interlaced", _interlaced, 0.4),
    Step("halftone", _halftone, 0.5),
    Step("paper", _paper, 0.5),
)
