"""A source and a recipe that fit each other, checked once: the result's size, its tiles and its pixels."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, partial

import numpy as np

from wamplex.core.apply_framing import framed_picture, framed_small, turned, unpremultiplied
from wamplex.core.border_fill import BorderStage
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.sheet import rings
from wamplex.core.geometry.size import Size
from wamplex.core.parallel_rows import parallel_rows
from wamplex.core.picture import Picture, Pixels
from wamplex.core.progress import Progress
from wamplex.core.recipe import Recipe
from wamplex.core.upscale.anchor import AnchorStage
from wamplex.core.upscale.interface import Upscaler
from wamplex.core.upscale.interpolation import BICUBIC
from wamplex.core.upscale.kernels import LANCZOS3, unwidened
from wamplex.core.upscale.mix import MixStage
from wamplex.core.upscale.registry import find_upscaler
from wamplex.core.upscale.resample import ResampleStage
from wamplex.core.upscale.spared import framed_places
from wamplex.core.upscale.stage import Layout, SourceStage, Stage, layout_of
from wamplex.core.upscale.straighten import StraightenStage, straightening
from wamplex.core.upscale.undo import Undo, UndoStage
from wamplex.core.upscale.values import Values
from wamplex.core.window import Window


@dataclass(frozen=True, eq=False)
class Plan:
    """What a recipe makes of a picture; made by `plan`.

    Attributes
    ----------
    size : of the result
    tile : columns and rows of the result that are best made at a time when all of it is wanted
    """

    picture: Picture
    recipe: Recipe
    size: Size
    tile: tuple[int, int]
    _stage: Stage

    @property
    def layout(self) -> Layout:
        """Its channels."""
        return layout_of(self.picture)

    @property
    def origin(self) -> tuple[float, float]:
        """Where it begins in the turned picture."""
        kept = self.recipe.framing.window(self.picture.width, self.picture.height)
        return float(kept.x), float(kept.y)

    @property
    def scale(self) -> float:
        """Its pixels for each of the source."""
        return self.recipe.factor

    @property
    def width(self) -> int:
        """Columns of the result."""
        return self.size.width_px

    @property
    def height(self) -> int:
        """Rows of the result."""
        return self.size.height_px

    def render(self, window: Window, progress: Progress | None = None) -> Pixels:
        """Pixels of the result inside a window; see `wamplex.core.render.render`."""
        if window != window.clipped(self.width, self.height):
            raise ValueError(f"{window} reaches over the result, which has {self.width} x {self.height} px")
        pixels = self._stage.render(window, progress or Progress())
        if self.picture.alpha is None:
            # In place where the pixels are new; at 1x they may be the picture's own.
            own = np.shares_memory(pixels, self.picture.pixels)
            return _clipped(pixels, np.empty_like(pixels) if own else pixels)
        colour, alpha = unpremultiplied(pixels)
        return np.concatenate([colour, alpha[..., np.newaxis]], axis=2, dtype=np.float32)

    @cached_property
    def on_sheet(self) -> Stage:
        """The whole file as a stage: the result with margin, extension and wrap around it, if any."""
        stage: Stage = self
        small = partial(framed_small, self.picture, self.recipe.framing)
        for ring in rings(self.size, self.recipe.sheet):
            around = BorderStage(stage, ring, small)
            stage, small = around, around.small  # type: ignore[assignment]
        return stage


def plan(picture: Picture, recipe: Recipe) -> Plan:
    """See that a recipe fits a picture, and lay out what is to be done.

    Returns
    -------
    Size, tiles and pixels of the result; nothing is rendered yet.

    Raises
    ------
    SizeError : when the crop reaches over the picture's edge
    RecipeError : when there is no such upscaler
    """
    recipe.framing.checked(picture.width, picture.height)
    upscaler = find_upscaler(recipe.upscaler)
    size = recipe.size(picture.width, picture.height)
    tile = upscaler.tile(size, recipe.values, picture.channels)
    return Plan(picture, recipe, size, tile, _chain(picture, recipe, upscaler))


def _clipped(pixels: Pixels, out: Pixels) -> Pixels:
    parallel_rows(len(pixels), pixels[:1].nbytes, lambda rows: np.clip(pixels[rows], 0.0, 1.0, out=out[rows]))
    return out


def _chain(picture: Picture, recipe: Recipe, upscaler: Upscaler) -> Stage:
    values = recipe.values
    anchored = values.anchor_levels is not None and recipe.factor > 1
    stage = _enlarged(picture, recipe, upscaler, anchored=anchored)
    if values.keep_source > 0:
        plain = _enlarged(picture, recipe, BICUBIC, anchored=False)
        stage = MixStage(stage, plain, values.keep_source / 100)
    return stage


def _enlarged(picture: Picture, recipe: Recipe, upscaler: Upscaler, *, anchored: bool) -> Stage:
    """One upscaler's result for the framing, straightened in the same resampling that sets the size."""
    framing, size, values = recipe.framing, recipe.size(picture.width, picture.height), recipe.values
    width, height = size.width_px, size.height_px
    level = framing.straighten_deg == 0
    taken = framed_picture(picture, framing) if level else turned(picture, framing)
    kept = framing.window(picture.width, picture.height)
    origin = (float(kept.x), float(kept.y)) if level else (0.0, 0.0)
    source = _shrunk(SourceStage(taken, origin), framing.shrink_first)
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
        values = values.having(spared=spared)
    stage = upscaler.chain(source, *large, values)
    if anchored and values.anchor_levels is not None:
        stage = AnchorStage(stage, _anchor(source, upscaler, values), values.anchor_levels)
    if level:
        return stage
    sizes = ((stage.width, stage.height), (width, height))
    place = straightening((taken.width, taken.height), framing.straighten_deg, kept, *sizes)
    return StraightenStage(stage, place, width, height, upscaler.kernel)


def _anchor(source: Stage, upscaler: Upscaler, values: Values) -> Stage:
    """What shrinking the result is to give back: the source, without the softness that was undone."""
    undo = Undo.of(values) if "softness" in upscaler.values else None
    return source if undo is None else UndoStage(source, undo)


def _shrunk(source: Stage, by: float) -> Stage:
    if by <= 1:
        return source
    width, height = (max(1, round(n / by)) for n in (source.width, source.height))
    return ResampleStage(source, width, height, unwidened(LANCZOS3, by))
