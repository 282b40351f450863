"""What the judge is told of a picture: the numbers of its fine structure, and what was measured of it."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from wamplex.core.analysis.report.condition import Condition

_CODECS = ("jpeg", "webp", "avif")
_KINDS = ("photograph", "drawing", "lettering", "pixel art", "generated")


def condition_numbers(condition: Condition, factor: float) -> NDArray[np.float32]:
    """The measured rows as numbers.

    Parameters
    ----------
    condition : with the rows that enlarging depends on; its picture was large enough to be read
    factor : of the enlargement

    Returns
    -------
    (37,) float32, each of the order of 1.
    """
    read, noise, compression = condition.read, condition.noise, condition.compression
    assert read is not None
    estimates = (read.blur, read.sharpening, read.amount)
    logarithmic = (read.noise, read.colour_noise)
    compressed = compression.quality is not None
    earlier = 0.0 if compression.earlier is None else (100 - compression.earlier) / 100
    numbers = [
        *(e.value for e in estimates),
        *(e.uncertainty for e in estimates),
        *(math.log1p(e.value) / 2 for e in logarithmic),
        *(e.uncertainty / (1 + e.value) for e in logarithmic),
        *read.media,
        *(math.log1p(n) / 2 for n in (noise.levels, noise.luma, noise.colour)),
        compression.strength / 50,
        earlier,
        float(compressed and compression.in_file),
        float(compressed and not compression.in_file),
        *(float(compressed and compression.codec == c) for c in _CODECS),
        -1.0 if condition.blur is None else condition.blur.blur_px,
        -1.0 if condition.blur is None else condition.blur.edge_px,
        0.0 if condition.movement is None else condition.movement.px / 5,
        0.0 if condition.enlarged is None else condition.enlarged.factor - 1,
        *(float(condition.content_type.kind == k) for k in _KINDS),
        condition.content_type.flat_fraction,
        condition.content_type.six_colours,
        math.log1p(condition.content_type.colours) / 8,
        math.log(condition.width * condition.height) / 10,
        factor / 4,
    ]
    return np.array(numbers, np.float32)
