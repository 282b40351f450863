"""Histories of the usual kind, in the order in which they usually happen, for the judge to know them too."""

from __future__ import annotations

import numpy as np

from training.history import apply, drawn, save_as
from training.unlisted.chain import Chain


def usual_file(truth: np.ndarray, side: tuple[int, int], seed: int) -> tuple[bytes, Chain]:
    """The file of a small picture with a usual history.

    Parameters
    ----------
    truth : (H, W, 3) uint8
    side : columns and rows of the small picture
    seed : draws the same history again

    Returns
    -------
    The file, and what was done.
    """
    random = np.random.default_rng(seed)
    history = drawn(random)
    pixels = apply(truth, side, history, random, last_save=False)
    suffix = {None: "png", "jpeg": "jpg"}.get(history.codec, str(history.codec))
    file = save_as(pixels, history.codec, history.quality, history.subsampling)
    return file, Chain(seed, (str(history),), ("usual",), suffix)
