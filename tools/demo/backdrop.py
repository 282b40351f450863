"""A painted backdrop as a picture generator would make it: a lake at dusk, drawn with numbers alone."""

from __future__ import annotations

import numpy as np
from PIL import Image, ImageDraw, ImageFilter
from scipy.ndimage import gaussian_filter, zoom

SIZE = (2560, 1920)
_HORIZON = 1250


def draw() -> Image.Image:
    """The backdrop at full size."""
    random = np.random.default_rng(40)
    sky = _sky(random)
    scene = np.concatenate([sky[:_HORIZON], _lake(sky[:_HORIZON], random)])
    picture = Image.fromarray((np.clip(scene, 0, 1) * 255).astype(np.uint8))
    picture = _village(picture, random)
    return _trees(picture, random)


def _fractal(shape: tuple[int, int], random: np.random.Generator, stretch: float = 1.0) -> np.ndarray:
    """Sum of smooth noise of halving size, about 0 to 1."""
    total = np.zeros(shape)
    for octave in range(6):
        cells = 3 * 2**octave
        small = random.normal(size=(int(cells * stretch) + 3, cells + 3))
        grown = zoom(small, (shape[0] / (small.shape[0] - 2), shape[1] / (small.shape[1] - 2)), order=3)
        total += grown[: shape[0], : shape[1]] / 2**octave
    return (total - total.min()) / (total.max() - total.min())


def _sky(random: np.random.Generator) -> np.ndarray:
    height = np.linspace(0, 1, _HORIZON)
    stops = [0, 0.3, 0.58, 0.8, 0.93, 1.0]
    colours = np.array(
        [
            (0.07, 0.08, 0.22),
            (0.17, 0.15, 0.36),
            (0.45, 0.26, 0.45),
            (0.82, 0.42, 0.38),
            (0.97, 0.66, 0.40),
            (1.0, 0.80, 0.52),
        ]
    )
    column = np.stack([np.interp(height, stops, colours[:, c]) for c in range(3)], axis=1)
    sky = np.repeat(column[:, None], SIZE[0], axis=1)
    y, x = np.mgrid[0:_HORIZON, 0 : SIZE[0]]
    glow = np.exp(-(((x - 1750) / 900.0) ** 2) - ((y - _HORIZON) / 330.0) ** 2)[..., None]
    sky += glow * np.array([0.16, 0.12, 0.04])
    cloud = np.clip(_fractal((_HORIZON, SIZE[0]), random, 3.2) - 0.52, 0, 1) * 3.0
    cloud *= np.exp(-(((y - 720) / 260.0) ** 2))
    lit = np.array([0.98, 0.60, 0.46]) * (0.55 + 0.45 * (y / _HORIZON))[..., None]
    sky = sky * (1 - 0.7 * np.clip(cloud, 0, 1)[..., None]) + 0.7 * np.clip(cloud, 0, 1)[..., None] * lit
    for _ in range(260):
        sx, sy = random.integers(5, SIZE[0] - 5), int(random.beta(1, 3) * 620) + 3
        sky[sy - 1 : sy + 1, sx - 1 : sx + 1] += random.uniform(0.15, 0.7)
    moon = np.clip(61 - np.hypot(x - 620, y - 300), 0, 1) * np.clip(np.hypot(x - 652, y - 285) - 56, 0, 1)
    sky = sky * (1 - moon[..., None]) + moon[..., None] * np.array([1.0, 0.95, 0.82])
    for level, tint, rough in (
        (1010, (0.42, 0.28, 0.42), 1),
        (1090, (0.27, 0.20, 0.33), 2),
        (1165, (0.13, 0.13, 0.22), 3),
    ):
        ridge = level + 90 * (0.5 - _fractal((4, SIZE[0]), random)[0]) * 2
        ridge += rough * 3 * gaussian_filter(random.normal(size=SIZE[0]), 2.0)
        inside = np.clip(y - ridge, 0, 1)[..., None]
        mist = np.clip((y - ridge) / 260, 0, 1)[..., None]
        hill = np.asarray(tint) * (1 - mist) + np.array([0.66, 0.42, 0.42]) * mist
        sky = sky * (1 - inside) + inside * hill
    return sky


def _lake(sky: np.ndarray, random: np.random.Generator) -> np.ndarray:
    rows = SIZE[1] - _HORIZON
    depth = np.linspace(0, 1, rows)[:, None]
    ripple = _fractal((rows, SIZE[0]), random, 8.0) - 0.5
    y = np.clip(_HORIZON - 1 - np.arange(rows)[:, None] * 1.5 - ripple * (20 + 150 * depth), 0, _HORIZON - 1)
    x = np.clip(np.arange(SIZE[0])[None] + ripple * 60 * depth, 0, SIZE[0] - 1)
    mirrored = sky[y.astype(int), x.astype(int)]
    return mirrored * (0.78 - 0.3 * depth[..., None]) + np.array([0.01, 0.015, 0.05])


def _village(picture: Image.Image, random: np.random.Generator) -> Image.Image:
    pen = ImageDraw.Draw(picture)
    x = 300.0
    while x < 1150:
        width, height = random.uniform(34, 70), random.uniform(26, 52)
        base = _HORIZON - 2
        pen.rectangle((x, base - height, x + width, base), fill=(24, 22, 38))
        peak = base - height - random.uniform(18, 34)
        pen.polygon(((x - 5, base - height), (x + width / 2, peak), (x + width + 5, base - height)), fill=(18, 16, 30))
        for _ in range(int(random.integers(0, 3))):
            wx, wy = x + random.uniform(6, width - 14), base - random.uniform(14, height - 4)
            pen.rectangle((wx, wy, wx + 7, wy + 9), fill=(255, 205, 110))
        x += width * random.uniform(0.85, 1.4)
    pen.polygon(((690, _HORIZON - 70), (703, _HORIZON - 190), (716, _HORIZON - 70)), fill=(18, 16, 30))
    pen.rectangle((690, _HORIZON - 75, 716, _HORIZON - 2), fill=(24, 22, 38))
    return picture


def _trees(picture: Image.Image, random: np.random.Generator) -> Image.Image:
    large = picture.resize((SIZE[0] * 2, SIZE[1] * 2), Image.Resampling.BICUBIC)
    pen = ImageDraw.Draw(large)

    def branch(x: float, y: float, angle: float, length: float, width: float) -> None:
        if width < 1.6 or length < 7:
            return
        bend = angle + random.normal(0, 0.16)
        x2, y2 = x + length * np.cos(bend), y - length * np.sin(bend)
        pen.line((x, y, x2, y2), fill=(10, 9, 18), width=round(width))
        for _ in range(2 if random.random() < 0.82 else 3):
            spread = random.uniform(0.15, 0.75) * random.choice([-1, 1])
            branch(x2, y2, bend + spread, length * random.uniform(0.68, 0.9), width * random.uniform(0.6, 0.78))

    for x, lean, size in ((4640.0, 1.75, 1.0), (5010, 1.62, 0.75), (130, 1.4, 0.62)):
        branch(x, 3840, lean, 520 * size, 74 * size)
    for _ in range(2600):
        x, h = random.uniform(0, SIZE[0] * 2), random.uniform(60, 250)
        lean = random.normal(0, 26)
        y = 3850
        pen.line((x, y, x + lean, y - h), fill=(12, 11, 20), width=int(random.integers(2, 7)))
    return large.resize(SIZE, Image.Resampling.LANCZOS).filter(ImageFilter.GaussianBlur(0.4))
