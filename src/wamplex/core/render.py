"""(picture, recipe, window) to pixels: the only way that result pixels are made."""

from __future__ import annotations

import math

import numpy as np

from wamplex.core.picture import Picture, Pixels
from wamplex.core.progress import Progress
from wamplex.core.recipe import Recipe
from wamplex.core.upscale.network import NetworkStage, tile_shape
from wamplex.core.upscale.registry import find_upscaler
from wamplex.core.upscale.stage import SourceStage, Stage
from wamplex.core.window import Window

# Least share of alpha by which colour is divided; below it a pixel is invisible at 16 bits.
_LEAST_ALPHA = 0.5 / 65535
# Rows of an interpolated band, at least, and the bytes it may take beyond that.
_INTERPOLATED_BAND_PX = 256
_INTERPOLATED_BYTES = 100_000_000
# What the learned upscalers need around a tile, about; it only steers the choice of tiles.
_LEARNED_HALO = 16


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
        # In place where the pixels are new; at 1x they may be the picture's own.
        return np.clip(pixels, 0.0, 1.0, out=None if np.shares_memory(pixels, picture.pixels) else pixels)
    return _unpremultiplied(pixels)


def best_tile(picture: Picture, recipe: Recipe) -> tuple[int, int]:
    """Columns and rows of the result that are best made at a time when the whole is wanted."""
    size = recipe.size(picture.width, picture.height)
    if find_upscaler(recipe.upscaler).kind == "learned" and recipe.factor > 1:
        area = NetworkStage.TILE_AREA_PX
        width, height = tile_shape(picture.width, picture.height, _LEARNED_HALO, area)
        return math.ceil(width * recipe.factor), math.ceil(height * recipe.factor)
    row_bytes = size.width_px * picture.channels * 4
    return size.width_px, max(_INTERPOLATED_BAND_PX, min(1024, _INTERPOLATED_BYTES // row_bytes))


def _chain(picture: Picture, recipe: Recipe) -> Stage:
    size = recipe.size(picture.width, picture.height)
    return find_upscaler(recipe.upscaler).chain(SourceStage(picture), size.width_px, size.height_px)


def _unpremultiplied(pixels: Pixels) -> Pixels:
    alpha = np.clip(pixels[..., -1:], 0.0, 1.0)
    colour = np.clip(pixels[..., :-1] / np.maximum(alpha, _LEAST_ALPHA), 0.0, 1.0)
    colour = np.where(alpha >= _LEAST_ALPHA, colour, 0.0)
    return np.concatenate([colour, alpha], axis=2, dtype=np.float32)
