"""Files of two or a few tones: faxed and scanned pages, screens of dots, small greys of old programs."""

from __future__ import annotations

import io

import cv2
import numpy as np
from PIL import Image

from training.unlisted.chain import Chain

_BLURRED, _SOFT_PX = 0.4, (0.3, 0.9)
FEW_TONES_KINDS = ("two tones", "few tones", "dots")
_SHARES = (0.5, 0.3, 0.2)


def few_tones_file(truth: np.ndarray, side: tuple[int, int], seed: int) -> tuple[bytes, Chain]:
    """The PNG of a small picture in two or a few greys.

    Parameters
    ----------
    truth : (H, W, 3) uint8
    side : columns and rows of the small picture
    seed : draws the same file again

    Returns
    -------
    The file, and what was done.
    """
    random = np.random.default_rng(seed)
    grey = cv2.resize(cv2.cvtColor(truth, cv2.COLOR_RGB2GRAY), side, interpolation=cv2.INTER_AREA)
    if random.random() < _BLURRED:
        grey = cv2.GaussianBlur(grey, (0, 0), float(random.uniform(*_SOFT_PX)))
    kind = str(random.choice(FEW_TONES_KINDS, p=_SHARES))
    steps = [kind]
    if kind == "two tones":
        threshold, _ = cv2.threshold(grey, 0, 255, cv2.THRESH_OTSU)
        picture = Image.fromarray(((grey > threshold + random.uniform(-25, 25)) * 255).astype(np.uint8)).convert("1")
    elif kind == "few tones":
        tones = int(random.choice((3, 4, 8, 16)))
        picture = Image.fromarray(grey).quantize(tones, dither=Image.Dither.NONE)
        steps.append(f"{tones} tones")
    else:
        picture = Image.fromarray(grey).convert("1")  # Floyd and Steinberg's dots
    file = io.BytesIO()
    picture.save(file, "PNG")
    return file.getvalue(), Chain(seed, tuple(steps), (kind,), "png")
