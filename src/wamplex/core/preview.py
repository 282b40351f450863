"""Result pixels as the screen shows them: sRGB, 8 bits, on white paper."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.colour.convert import for_display
from wamplex.core.picture import Picture, Pixels
from wamplex.core.progress import Progress
from wamplex.core.recipe import Recipe
from wamplex.core.render import render
from wamplex.core.window import Window


def preview(
    picture: Picture, recipe: Recipe, window: Window, reduce: int = 1, progress: Progress | None = None
) -> NDArray[np.uint8]:
    """The window of the result for the screen.

    Parameters
    ----------
    window : in result pixels, inside the result
    reduce : every ``reduce`` x ``reduce`` result pixels are averaged to one

    Returns
    -------
    (ceil(h / reduce), ceil(w / reduce), 3) uint8 sRGB; with ``reduce`` 1 these are the very pixels that
    an 8-bit file of an sRGB picture holds
    """
    pixels = for_display(render(picture, recipe, window, progress), picture)
    if picture.alpha is not None:
        alpha = pixels[..., 3:]
        pixels = pixels[..., :3] * alpha + (1 - alpha)
    if reduce > 1:
        pixels = _averaged(pixels, reduce)
    shown: NDArray[np.uint8] = np.rint(pixels * np.float32(255)).astype(np.uint8)
    return shown


def _averaged(pixels: Pixels, reduce: int) -> Pixels:
    """Block means; incomplete blocks at the right and lower edge average what they have."""
    rows = np.arange(0, pixels.shape[0], reduce)
    columns = np.arange(0, pixels.shape[1], reduce)
    sums = np.add.reduceat(np.add.reduceat(pixels, rows, axis=0), columns, axis=1)
    counts = np.diff(rows, append=pixels.shape[0])[:, None] * np.diff(columns, append=pixels.shape[1])
    means: Pixels = np.divide(sums, counts[..., None], dtype=np.float32)
    return means
