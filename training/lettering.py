"""Sets pages of lettering in many faces, sizes and colours."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont

PAGE_PX = 900
_SIZES_PX = (7, 80)
_LEAST_CONTRAST = 90  # 8-bit levels of luma between ink and paper
_TURNED_SHARE = 0.3


def page(words: list[str], faces: list[Path], random: np.random.Generator) -> np.ndarray:
    """One page, (900, 900, 3) uint8: lines of random words, each in a face and size of its own."""
    paper, ink = _colours(random)
    image = Image.new("RGB", (PAGE_PX, PAGE_PX), paper)
    draw = ImageDraw.Draw(image)
    y = 6
    while y < PAGE_PX:
        size = int(np.exp(random.uniform(*np.log(_SIZES_PX))))
        face = ImageFont.truetype(str(faces[random.integers(len(faces))]), size)
        line = " ".join(_word(words, random) for _ in range(2 + PAGE_PX // (3 * size)))
        colour = ink if random.random() < 0.8 else _colours(random)[1]
        draw.text((float(random.uniform(-20, 20)), y), line, fill=colour, font=face)
        y += int(size * 1.35) + 1
    if random.random() < _TURNED_SHARE:
        angle = float(random.uniform(-30, 30))
        image = image.rotate(angle, Image.Resampling.BICUBIC, fillcolor=paper)
    return np.asarray(image)


def _colours(random: np.random.Generator) -> tuple[tuple[int, ...], tuple[int, ...]]:
    """Paper and ink, often black and white, always far enough apart to be read."""
    if random.random() < 0.4:
        pair = ((255, 255, 255), (0, 0, 0))
        return pair if random.random() < 0.75 else pair[::-1]
    while True:
        paper, ink = random.integers(0, 256, (2, 3))
        if abs(float((paper - ink) @ [0.299, 0.587, 0.114])) >= _LEAST_CONTRAST:
            return tuple(map(int, paper)), tuple(map(int, ink))


def _word(words: list[str], random: np.random.Generator) -> str:
    word = words[random.integers(len(words))]
    draw = random.random()
    if draw < 0.10:
        return word.upper()
    if draw < 0.20:
        return word.capitalize()
    return str(random.integers(10_000)) if draw < 0.27 else word
