"""Result pixels as the screen shows them: in its view, 8 bits, without transparency."""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.convert import to_srgb_on_ground
from wamplex.core.colour.screen_view import PLAIN, ScreenView, convert_for_screen
from wamplex.core.colour.soft_proof import OUTSIDE_DELTA_E, gamut_difference
from wamplex.core.finish.mask_stage import mask_stage
from wamplex.core.finish.stage_cache import StageCache
from wamplex.core.model.assets import process_assets
from wamplex.core.model.finish_values import Mask
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.recipe import Recipe
from wamplex.core.readings.catalogue import READINGS
from wamplex.core.readings.reading_input import gather_input
from wamplex.core.readings.trial_differences import trial_deviation
from wamplex.core.render.plan import plan

DIFFERENCE_GAIN = 4
_FULL_SPREAD = 12.0  # levels by which trials lie apart where the trace is strongest
_FULL_OUTSIDE = 15.0  # CIEDE2000 where a colour that cannot be printed is drawn strongest
_TRACE_COLOUR = np.array([200, 84, 0], np.float32)
# Around a tile, so that what is drawn hardly depends on where tiles end.
_TRACE_HALO_SOURCE_PX = 16


def preview(
    picture: Picture,
    recipe: Recipe,
    window: Window,
    reduce: int = 1,
    progress: Progress | None = None,
    view: ScreenView = PLAIN,
) -> NDArray[np.uint8]:
    """The window of the result for the screen.

    Parameters
    ----------
    picture : the decoded picture
    recipe : all decisions about the picture
    window : in result pixels, inside the result
    reduce : every ``reduce`` x ``reduce`` result pixels are averaged to one
    progress : receives the progress; cancelling it raises `Cancelled`
    view : screen and proof

    Returns
    -------
    (ceil(h / reduce), ceil(w / reduce), 3) uint8, sRGB in a plain view; with ``reduce`` 1 these are then the
    very pixels that an 8-bit file of an sRGB picture holds
    """
    pixels = plan(picture, recipe, memory=_memory()).render(window, progress)
    return _shown(convert_for_screen(pixels, picture, view), reduce)


@cache
def _memory() -> StageCache:
    """Cache for previews: strokes follow each other over the same trials."""
    return StageCache()


def _shown(pixels: Pixels, reduce: int) -> NDArray[np.uint8]:
    """sRGB as bytes, averaged down."""
    if reduce > 1:
        pixels = _averaged(pixels, reduce)
    shown: NDArray[np.uint8] = np.rint(pixels * np.float32(255)).astype(np.uint8)
    return shown


def difference_preview(
    picture: Picture, recipe: Recipe, other: Recipe, window: Window, reduce: int, progress: Progress
) -> NDArray[np.uint8]:
    """How one result differs from another, four times as strong: mid-grey where they are equal.

    Lighter where ``recipe`` is lighter than ``other``; the same shape as `preview`.

    Parameters
    ----------
    picture : the decoded picture
    recipe : all decisions about the picture
    other : recipe of the trial that is subtracted
    window : rectangle, in result pixels
    reduce : reduction for the screen: 1, 2, 4 ... result pixels per screen pixel
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    (ceil(h / reduce), ceil(w / reduce), 3) uint8.
    """
    one = preview(picture, recipe, window, reduce, progress).astype(np.int16)
    two = preview(picture, other, window, reduce, progress).astype(np.int16)
    shown: NDArray[np.uint8] = np.clip(128 + DIFFERENCE_GAIN * (one - two), 0, 255).astype(np.uint8)
    return shown


def trace_preview(
    picture: Picture, recipe: Recipe, reading: str, window: Window, reduce: int, progress: Progress
) -> NDArray[np.uint8]:
    """A reading drawn over the pale grey result: the more amber, the more of it is there.

    Parameters
    ----------
    picture : the decoded picture
    recipe : all decisions about the picture
    reading : which artifact is drawn
    window : rectangle, in result pixels
    reduce : reduction for the screen: 1, 2, 4 ... result pixels per screen pixel
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    (ceil(h / reduce), ceil(w / reduce), 3) uint8.
    """
    size = recipe.size(picture.width, picture.height)
    grown = window.grown(round(_TRACE_HALO_SOURCE_PX * recipe.factor), size.width_px, size.height_px)
    definition = next(r for r in READINGS if r.key == reading)
    reading_input = gather_input(picture, recipe, grown, progress)
    y, x = window.y - grown.y, window.x - grown.x
    part = (slice(y, y + window.height), slice(x, x + window.width))
    trace = definition.measure(reading_input).trace[part].astype(np.float32)
    shown = _shown(reading_input.result[part], reduce)
    return _composite_on_grey(shown, _averaged(trace[..., None], reduce) / definition.full_trace)


def gamut_preview(
    picture: Picture, recipe: Recipe, window: Window, reduce: int, progress: Progress, view: ScreenView
) -> NDArray[np.uint8]:
    """Where a proof's printer has not the colours, drawn over the pale grey result; nothing without a proof.

    Parameters
    ----------
    picture : the decoded picture
    recipe : all decisions about the picture
    window : rectangle, in result pixels
    reduce : reduction for the screen: 1, 2, 4 ... result pixels per screen pixel
    progress : receives the progress; cancelling it raises `Cancelled`
    view : screen and printer profiles

    Returns
    -------
    (ceil(h / reduce), ceil(w / reduce), 3) uint8.
    """
    pixels = plan(picture, recipe, memory=_memory()).render(window, progress)
    srgb = _averaged(to_srgb_on_ground(pixels, picture), reduce)
    shown: NDArray[np.uint8] = np.rint(srgb * np.float32(255)).astype(np.uint8)
    if view.proof is None:
        return _composite_on_grey(shown, np.zeros((*shown.shape[:2], 1), np.float32))
    difference = gamut_difference(srgb, view.proof, view.intent).astype(np.float32)[..., None]
    # From a difference that is just seen to one as large as between neighbouring swatches.
    return _composite_on_grey(shown, (difference - OUTSIDE_DELTA_E) / (_FULL_OUTSIDE - OUTSIDE_DELTA_E))


def _composite_on_grey(shown: NDArray[np.uint8], weight: Pixels) -> NDArray[np.uint8]:
    """Shares of a full trace in its colour over a picture made grey and pale."""
    strength = np.clip(weight, 0, 1) ** 0.7
    grey = 96 + 0.5 * shown.astype(np.float32).mean(axis=2, keepdims=True)
    result: NDArray[np.uint8] = np.rint(grey + strength * (_TRACE_COLOUR - grey)).astype(np.uint8)
    return result


def deviation_preview(
    picture: Picture, recipes: tuple[Recipe, ...], window: Window, reduce: int, progress: Progress
) -> NDArray[np.uint8]:
    """Where trials disagree, drawn over the pale grey result of the first: the more amber, the further apart.

    Parameters
    ----------
    picture : the decoded picture
    recipes : of all trials
    window : rectangle, in result pixels
    reduce : reduction for the screen: 1, 2, 4 ... result pixels per screen pixel
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    (ceil(h / reduce), ceil(w / reduce), 3) uint8.
    """
    difference = _averaged(trial_deviation(picture, recipes, window, progress)[..., None], reduce)
    return _composite_on_grey(preview(picture, recipes[0], window, reduce, progress), difference / _FULL_SPREAD)


def mask_preview(
    picture: Picture, recipe: Recipe, mask: Mask, window: Window, reduce: int, progress: Progress
) -> NDArray[np.uint8]:
    """A mask where the window of the result lies.

    Parameters
    ----------
    picture : the decoded picture
    recipe : all decisions about the picture
    mask : a mask
    window : rectangle, in result pixels
    reduce : reduction for the screen: 1, 2, 4 ... result pixels per screen pixel
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    (ceil(h / reduce), ceil(w / reduce)) uint8, 255 where it is whole.
    """
    stage = mask_stage(picture, recipe.unfinished, mask, process_assets())
    levels: NDArray[np.uint8] = np.rint(_averaged(stage.render(window, progress), reduce) * 255).astype(np.uint8)
    return levels[..., 0]


def _averaged(pixels: Pixels, reduce: int) -> Pixels:
    """Block means; incomplete blocks at the right and lower edge average what they have."""
    rows = np.arange(0, pixels.shape[0], reduce)
    columns = np.arange(0, pixels.shape[1], reduce)
    sums = np.add.reduceat(np.add.reduceat(pixels, rows, axis=0), columns, axis=1)
    counts = np.diff(rows, append=pixels.shape[0])[:, None] * np.diff(columns, append=pixels.shape[1])
    means: Pixels = np.divide(sums, counts[..., None], dtype=np.float32)
    return means
