"""(picture, recipe, window) to pixels: the only way that result pixels are made."""

from __future__ import annotations

import math
from functools import partial

import numpy as np

from wamplex.core.by_rows import by_rows
from wamplex.core.framed import framed, framed_small, turned, unpremultiplied
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.sheet import rings
from wamplex.core.picture import Picture, Pixels
from wamplex.core.progress import Progress
from wamplex.core.recipe import Recipe
from wamplex.core.surround import SurroundStage
from wamplex.core.upscale.anchor import AnchorStage
from wamplex.core.upscale.interface import Upscaler
from wamplex.core.upscale.interpolation import BICUBIC
from wamplex.core.upscale.kernels import LANCZOS3, unwidened
from wamplex.core.upscale.learned import Learned
from wamplex.core.upscale.mix import MixStage
from wamplex.core.upscale.network import TILE_PX, tile_shape
from wamplex.core.upscale.registry import find_upscaler
from wamplex.core.upscale.resample import ResampleStage
from wamplex.core.upscale.spared import framed_places
from wamplex.core.upscale.stage import SourceStage, Stage
from wamplex.core.upscale.straighten import StraightenStage
from wamplex.core.upscale.undo import Undo, UndoStage
from wamplex.core.upscale.values import Values
from wamplex.core.window import Window

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
    recipe : the decisions; upscaler, values and factor count here
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
        return _clipped(pixels, np.empty_like(pixels) if np.shares_memory(pixels, picture.pixels) else pixels)
    colour, alpha = unpremultiplied(pixels)
    return np.concatenate([colour, alpha[..., np.newaxis]], axis=2, dtype=np.float32)


def _clipped(pixels: Pixels, out: Pixels) -> Pixels:
    by_rows(len(pixels), pixels[:1].nbytes, lambda rows: np.clip(pixels[rows], 0.0, 1.0, out=out[rows]))
    return out


def render_sheet(
    picture: Picture, recipe: Recipe, window: Window, progress: Progress | None = None
) -> Pixels:
    """Pixels of the file: the enlarged picture on its sheet, with margin, extension and wrap around it.

    Where the picture is, these are the pixels of `render`; without a sheet, nothing else is.

    Parameters
    ----------
    window : rectangle of the file, in pixels, inside it
    """
    return sheet_stage(picture, recipe).render(window, progress or Progress())


def sheet_stage(picture: Picture, recipe: Recipe) -> Stage:
    """The whole file as a stage, for those who want many windows: what is around is made only once."""
    stage: Stage = _Result(picture, recipe)
    small = partial(framed_small, picture, recipe.framing)
    for ring in rings(recipe.size(picture.width, picture.height), recipe.sheet):
        around = SurroundStage(stage, ring, small)
        stage, small = around, around.small  # type: ignore[assignment]
    return stage


class _Result:
    """The finished picture as a stage, so that a sheet can go around it."""

    def __init__(self, picture: Picture, recipe: Recipe) -> None:
        size = recipe.size(picture.width, picture.height)
        self.width, self.height = size.width_px, size.height_px
        self._picture, self._recipe = picture, recipe

    def render(self, window: Window, progress: Progress) -> Pixels:
        return render(self._picture, self._recipe, window, progress)


def best_tile(picture: Picture, recipe: Recipe) -> tuple[int, int]:
    """Columns and rows of the result that are best made at a time when the whole is wanted."""
    size = recipe.size(picture.width, picture.height)
    upscaler = find_upscaler(recipe.upscaler)
    if upscaler.kind == "learned" and recipe.factor > 1:
        area = upscaler.tile_px if isinstance(upscaler, Learned) else TILE_PX
        width, height = tile_shape(size.source_width, size.source_height, _LEARNED_HALO, area)
        return math.ceil(width * recipe.factor), math.ceil(height * recipe.factor)
    row_bytes = size.width_px * picture.channels * 4
    return size.width_px, max(_INTERPOLATED_BAND_PX, min(1024, _INTERPOLATED_BYTES // row_bytes))


def _chain(picture: Picture, recipe: Recipe) -> Stage:
    values = recipe.values
    anchored = values.anchor_levels is not None and recipe.factor > 1
    stage = _enlarged(picture, recipe, find_upscaler(recipe.upscaler), anchored=anchored)
    if values.keep_source > 0:
        plain = _enlarged(picture, recipe, BICUBIC, anchored=False)
        stage = MixStage(stage, plain, values.keep_source / 100)
    return stage


def _enlarged(picture: Picture, recipe: Recipe, upscaler: Upscaler, *, anchored: bool) -> Stage:
    """One upscaler's result for the framing, straightened in the same resampling that sets the size."""
    framing, size, values = recipe.framing, recipe.size(picture.width, picture.height), recipe.values
    width, height = size.width_px, size.height_px
    level = framing.straighten_deg == 0
    taken = framed(picture, framing) if level else turned(picture, framing)
    source = _shrunk(SourceStage(taken), framing.shrink_first)
    factor = max(width, height) / max(size.source_width, size.source_height) * framing.shrink_first
    # An anchor compares with the source pixel by pixel, so the result must lie as the source does.
    reach = factor if anchored and not level else upscaler.reach(factor, values)
    if level:
        large = (width, height)
    else:
        large = (max(1, round(source.width * reach)), max(1, round(source.height * reach)))
    if values.spared:
        shown = framing if level else Framing(turns=framing.turns, flipped=framing.flipped)
        spared = framed_places(values.spared, shown, picture.width, picture.height)
        values = values.model_copy(update={"spared": spared})
    stage = upscaler.chain(source, *large, values)
    if anchored and values.anchor_levels is not None:
        stage = AnchorStage(stage, _anchor(source, upscaler, values), values.anchor_levels)
    if level:
        return stage
    kept = framing.window(picture.width, picture.height)
    place = (taken.width, taken.height, framing.straighten_deg, kept)
    return StraightenStage(stage, *place, width, height, upscaler.kernel)


def _anchor(source: Stage, upscaler: Upscaler, values: Values) -> Stage:
    """What shrinking the result is to give back: the source, without the softness that was undone."""
    undo = Undo.of(values) if "softness" in upscaler.values else None
    return source if undo is None else UndoStage(source, undo)


def _shrunk(source: Stage, by: float) -> Stage:
    if by <= 1:
        return source
    width, height = (max(1, round(n / by)) for n in (source.width, source.height))
    return ResampleStage(source, width, height, unwidened(LANCZOS3, by))
