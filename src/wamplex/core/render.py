"""(picture, recipe, window) to pixels: the only way that result pixels are made."""

from __future__ import annotations

import numpy as np

from wamplex.core.picture import Picture, Pixels
from wamplex.core.progress import Progress
from wamplex.core.recipe import Recipe
from wamplex.core.upscale.network import NetworkStage
from wamplex.core.upscale.registry import find_upscaler
from wamplex.core.upscale.stage import SourceStage, Stage
from wamplex.core.window import Window

# Least share of alpha by which colour is divided; below it a pixel is invisible at 16 bits.
_LEAST_ALPHA = 0.5 / 65535
# An interpolation band is small so that it stays in the processor's cache.
_INTERPOLATED_BAND_PX = 256


def render(picture: Picture, recipe: Recipe, window: Window, progress: Progress | None = None) -> Pixels:
    """Pixels of the enlarged picture inside a window.

    Pure, and exact in the window: any window equals that window of the whole to 1/65535.

    Parameters
    ----------
    picture : the source
    recipe : the decisions; upscaler and factor count here
    window : rectangle of the result, in result pixels, inside the result

    Returns
    -------
    (window.height, window.width, C) float32 in 0..1, in the picture's own profile; alpha, where the
    picture has it, is the last channel and not multiplied in.

    Raises
    ------
    Cancelled : when ``progress`` is cancelled
    """
    progress = progress or Progress()
    pixels = _chain(picture, recipe).render(window, progress)
    if picture.alpha is None:
        return np.clip(pixels, 0.0, 1.0)
    return _unpremultiplied(pixels)


def band_height(recipe: Recipe) -> int:
    """Rows of the result that are best made at a time: high for learned work, whose halo costs."""
    if _runs_network(recipe):
        return max(1, round(NetworkStage.TILE_PX * recipe.factor))
    return _INTERPOLATED_BAND_PX


def tile_width(recipe: Recipe, width: int) -> int:
    """Columns of the result that are best made at a time, of ``width`` in all."""
    if not _runs_network(recipe):
        return width
    tiles = -(-width // max(1, round(NetworkStage.TILE_PX * recipe.factor)))
    return -(-width // tiles)


def _runs_network(recipe: Recipe) -> bool:
    return find_upscaler(recipe.upscaler).kind == "learned" and recipe.factor > 1


def _chain(picture: Picture, recipe: Recipe) -> Stage:
    size = recipe.size(picture.width, picture.height)
    return find_upscaler(recipe.upscaler).chain(SourceStage(picture), size.width_px, size.height_px)


def _unpremultiplied(pixels: Pixels) -> Pixels:
    alpha = np.clip(pixels[..., -1:], 0.0, 1.0)
    colour = np.clip(pixels[..., :-1] / np.maximum(alpha, _LEAST_ALPHA), 0.0, 1.0)
    colour = np.where(alpha >= _LEAST_ALPHA, colour, 0.0)
    return np.concatenate([colour, alpha], axis=2, dtype=np.float32)
