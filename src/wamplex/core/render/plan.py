"""Checks that source and recipe fit, and builds the chain of stages: size, tiles, pixels."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, partial

import numpy as np

from wamplex.core.base.parallel_rows import run_parallel_rows
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.finish.finish_chain import finished_stage
from wamplex.core.finish.stage_cache import StageCache
from wamplex.core.geometry.sheet import rings
from wamplex.core.geometry.size import Size
from wamplex.core.model.assets import Assets, process_assets
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.recipe import Recipe
from wamplex.core.render.border_fill import BorderStage
from wamplex.core.trial.developed_picture import develop_picture
from wamplex.core.trial.framed_picture import frame_small, unpremultiply
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.upscale.stages.stage import ChannelLayout, Stage, channel_layout


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
    def layout(self) -> ChannelLayout:
        """Its channels."""
        return channel_layout(self.picture)

    @property
    def origin(self) -> tuple[float, float]:
        """Its top left corner in the rotated picture."""
        crop = self.recipe.framing.window(self.picture.width, self.picture.height)
        return float(crop.x), float(crop.y)

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
        """Pixels of the result inside a window; see `wamplex.core.render.render`.

        Parameters
        ----------
        window : rectangle, in result pixels
        progress : receives the progress; cancelling it raises `Cancelled`
        """
        if window != window.clipped(self.width, self.height):
            raise ValueError(f"{window} reaches over the result, which has {self.width} x {self.height} px")
        pixels = self._stage.render(window, progress or Progress())
        if self.picture.alpha is None:
            # In place where the pixels are new; at 1x they may be the picture's own.
            return _clipped(pixels, pixels if pixels.flags.writeable else np.empty_like(pixels))
        colour, alpha = unpremultiply(pixels)
        return np.concatenate([colour, alpha[..., np.newaxis]], axis=2, dtype=np.float32)

    @cached_property
    def on_sheet(self) -> Stage:
        """The whole file as a stage: the result with margin, extension and wrap around it, if any."""
        stage: Stage = self
        small = partial(frame_small, self.picture, self.recipe.framing)
        for ring in rings(self.size, self.recipe.sheet):
            around = BorderStage(stage, ring, small)
            stage, small = around, around.small  # type: ignore[assignment]
        return stage


def plan(picture: Picture, recipe: Recipe, assets: Assets | None = None, memory: StageCache | None = None) -> Plan:
    """See that a recipe fits a picture, and lay out what is to be done.

    Parameters
    ----------
    picture : the decoded picture
    recipe : all decisions about the picture
    assets : where its masks are found; this program's own when left out
    memory : of what its trials look like

    Returns
    -------
    Size, tiles and pixels of the result; nothing is rendered yet.

    Raises
    ------
    SizeError : when the crop reaches over the picture's edge
    RecipeError : when there is no such upscaler
    ProjectError : when a mask is missing
    """
    picture = develop_picture(picture, recipe)
    recipe.framing.checked(picture.width, picture.height)
    upscaler = find_upscaler(recipe.upscaler)
    size = recipe.size(picture.width, picture.height)
    tile = upscaler.tile(size, recipe.values, picture.channels)
    stage = finished_stage(picture, recipe, assets or process_assets(), memory)
    return Plan(picture, recipe, size, tile, stage)


def _clipped(pixels: Pixels, out: Pixels) -> Pixels:
    run_parallel_rows(len(pixels), pixels[:1].nbytes, lambda rows: np.clip(pixels[rows], 0.0, 1.0, out=out[rows]))
    return out
