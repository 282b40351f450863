"""What readings look at: one place of a picture, enlarged, beside its source."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.lazy_imports import ndimage
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.convert import to_srgb_on_ground
from wamplex.core.colour.luma import luma_plane
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.readings.full_reference import DoublePlane
from wamplex.core.render.render import render
from wamplex.core.trial.framed_picture import frame_part
from wamplex.core.upscale.stages.kernels import CATMULL_ROM
from wamplex.core.upscale.stages.resample import ResampleStage
from wamplex.core.upscale.stages.stage import ArrayStage

# Beyond this many source pixels no kernel used here reaches.
_REACH_PX = 3


@dataclass(frozen=True)
class ReadingInput:
    """A place of a result and what it was made from; all pixels sRGB on white, float32 in 0..1.

    Attributes
    ----------
    result : (H, W, 3)
    plain : (H, W, 3), the same place enlarged with Catmull-Rom, pixel by pixel on the result
    source : (h, w, 3), the source pixels around the place
    window : the place in result pixels
    source_window : where ``source`` lies in the source
    width, height : of the whole result
    source_width, source_height : of the whole source
    """

    result: Pixels
    plain: Pixels
    source: Pixels
    window: Window
    source_window: Window
    width: int
    height: int
    source_width: int
    source_height: int

    @property
    def factor(self) -> float:
        """Enlargement."""
        return self.width / self.source_width

    @cached_property
    def luma(self) -> DoublePlane:
        """Luma of the result in 8-bit levels."""
        return luma_levels(self.result)

    @cached_property
    def plain_luma(self) -> DoublePlane:
        """Luma of the plain enlargement in 8-bit levels."""
        return luma_levels(self.plain)

    @cached_property
    def shrunk_window(self) -> Window:
        """Window of `shrunk` in the source."""
        return self._inner_source()

    @cached_property
    def shrunk(self) -> tuple[Pixels, Pixels]:
        """The result shrunk back with the antialiased bicubic kernel, and the same source pixels.

        Only source pixels whose kernel lies inside the place.
        """
        inner = self._inner_source()
        array_stage = ArrayStage(self.result, self.window, self.width, self.height)
        stage = ResampleStage(array_stage, self.source_width, self.source_height, CATMULL_ROM)
        pixels = np.clip(stage.render(inner, Progress()), 0, 1)
        return pixels, self._source_part(inner)

    @cached_property
    def local_range(self) -> tuple[Pixels, Pixels]:
        """Least and most of the 5 x 5 source pixels around each result pixel: (H, W, 3) each."""
        size = (5, 5, 1)
        minimum = ndimage.minimum_filter(self.source, size, mode="nearest")
        maximum = ndimage.maximum_filter(self.source, size, mode="nearest")
        rows = self._nearest(self.window.y, self.window.bottom, self.height, self.source_height)
        columns = self._nearest(self.window.x, self.window.right, self.width, self.source_width)
        place = np.ix_(rows - self.source_window.y, columns - self.source_window.x)
        return minimum[place], maximum[place]

    def at_result_size(self, plane: DoublePlane) -> DoublePlane:
        """A map over `shrunk` as one over the result, by nearest neighbour; 0 where there is none."""
        inner = self._inner_source()
        rows = self._nearest(self.window.y, self.window.bottom, self.height, self.source_height) - inner.y
        columns = self._nearest(self.window.x, self.window.right, self.width, self.source_width) - inner.x
        inside = (rows >= 0) & (rows < inner.height)
        known_columns = (columns >= 0) & (columns < inner.width)
        result = plane[np.ix_(np.clip(rows, 0, inner.height - 1), np.clip(columns, 0, inner.width - 1))]
        return np.where(inside[:, None] & known_columns[None], result, 0.0)

    @staticmethod
    def _nearest(start: int, stop: int, output: int, source: int) -> NDArray[np.int64]:
        return (2 * np.arange(start, stop, dtype=np.int64) + 1) * source // (2 * output)

    def _inner_source(self) -> Window:
        x0, x1 = _inner(self.window.x, self.window.right, self.width, self.source_width)
        y0, y1 = _inner(self.window.y, self.window.bottom, self.height, self.source_height)
        return Window(x0, y0, x1 - x0, y1 - y0)

    def _source_part(self, part: Window) -> Pixels:
        y, x = part.y - self.source_window.y, part.x - self.source_window.x
        return self.source[y : y + part.height, x : x + part.width]


def gather_input(
    picture: Picture,
    recipe: Recipe,
    window: Window,
    progress: Progress | None = None,
    rendered: Pixels | None = None,
) -> ReadingInput:
    """Render a place and what it is compared with.

    Parameters
    ----------
    window : in result pixels; at least some eight source pixels each way for all readings to work
    rendered : what `render` made of the window, where that is at hand already

    Returns
    -------
    Result, plain enlargement and source, sRGB on white, float32 in 0..1.
    """
    if rendered is None:
        rendered = render(picture, recipe, window, progress)
    size = recipe.size(picture.width, picture.height)
    plain = recipe.unfinished.replace(base=TrialSpec(upscaler="bicubic"))
    sizes = (size.width_px, size.height_px, size.source_width, size.source_height)
    covered = _covering(window, *sizes)
    part = frame_part(picture, recipe.framing, covered)
    source = part.pixels
    if part.alpha is not None:
        source = np.concatenate([source, part.alpha[..., np.newaxis]], axis=2)
    return ReadingInput(
        to_srgb_on_ground(rendered, picture),
        to_srgb_on_ground(render(picture, plain, window, progress), picture),
        to_srgb_on_ground(source, picture),
        window,
        covered,
        *sizes,
    )


def luma_levels(pixels: Pixels) -> DoublePlane:
    result: DoublePlane = luma_plane(pixels).astype(np.float64) * 255
    return result


def _covering(window: Window, width: int, height: int, source_width: int, source_height: int) -> Window:
    """Source pixels around a place, with the reach of the kernels."""
    x0 = window.x * source_width // width - _REACH_PX
    y0 = window.y * source_height // height - _REACH_PX
    x1 = -(-window.right * source_width // width) + _REACH_PX
    y1 = -(-window.bottom * source_height // height) + _REACH_PX
    return Window(x0, y0, x1 - x0, y1 - y0).clipped(source_width, source_height)


def _inner(start: int, stop: int, output: int, source: int) -> tuple[int, int]:
    """Source positions whose shrinking kernel lies inside start..stop, or is cut by the picture's border."""
    first = 0 if start == 0 else -(-start * source // output) + _REACH_PX
    last = source if stop == output else stop * source // output - _REACH_PX
    return first, max(last, first)
