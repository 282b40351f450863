"""Places where trials of a picture differ most from each other: what must be looked at first."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.analysis.content.spots import NAMES, Spot, transform_spots
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.convert import to_srgb_on_ground
from wamplex.core.colour.luma import luma_plane
from wamplex.core.geometry.framing import Framing
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.recipe import Recipe
from wamplex.core.render.render import render

_SIDE_PX = 48  # of a place, in source pixels
_MOST_PLACES = 40
_MOST_SPOTS = 3
_APART = 0.12  # of the picture's diagonal
_LEAST_LEVELS = 1.0


def trial_deviation(picture: Picture, recipes: tuple[Recipe, ...], window: Window, progress: Progress) -> Pixels:
    """How far trials lie apart at each pixel: standard deviation of their luma, in levels.

    Parameters
    ----------
    picture : the decoded picture
    recipes : of the same size and framing, two or more
    window : in result pixels
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    (window.height, window.width) float32.
    """
    lumas = [luma_plane(to_srgb_on_ground(render(picture, r, window, progress), picture)) for r in recipes]
    result: Pixels = np.std(np.stack(lumas), axis=0, dtype=np.float32) * 255
    return result


def find_trial_differences(
    picture: Picture, recipes: tuple[Recipe, ...], progress: Progress | None = None
) -> tuple[Spot, ...]:
    """The places, of those with most detail, where trials differ most.

    Parameters
    ----------
    picture : the decoded picture
    recipes : of the trials, two or more, of the same size and framing
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    At most three, the most different first, as shares of the source's sides; none where all agree.
    """
    progress = progress or Progress()
    size = recipes[0].size(picture.width, picture.height)
    full = Window(0, 0, size.width_px, size.height_px)
    side = max(16, round(_SIDE_PX * recipes[0].factor))
    tiles = [tile for tile in full.tiles(side, side) if min(tile.width, tile.height) >= side // 2]
    differences: list[tuple[float, Window]] = []
    places = _with_detail(picture, recipes[0], tiles or [full], progress)
    for number, tile in enumerate(places):
        progress.report(number / len(places), "comparing trials")
        away = trial_deviation(picture, recipes, tile, progress)
        # A high share, not the highest value: one pixel is nothing to look at.
        differences.append((float(np.quantile(away, 0.95)), tile))
    differences.sort(key=lambda one: -one[0])
    return _distant_spots(differences, picture, recipes[0].framing, full)


def _with_detail(picture: Picture, recipe: Recipe, tiles: list[Window], progress: Progress) -> list[Window]:
    """The tiles with most contrast in a plain enlargement, which costs little."""
    if len(tiles) <= _MOST_PLACES:
        return tiles
    plain = recipe.replace(base=recipe.base.replace(upscaler="nearest")).unfinished
    contrast: list[float] = []
    for tile in tiles:
        progress.check()
        contrast.append(float(luma_plane(render(picture, plain, tile, progress)).std()))
    order: NDArray[np.intp] = np.argsort(contrast)[::-1][:_MOST_PLACES]
    return [tiles[int(i)] for i in order]


def _distant_spots(
    differences: list[tuple[float, Window]], picture: Picture, framing: Framing, full: Window
) -> tuple[Spot, ...]:
    spots: list[Spot] = []
    for levels, tile in differences:
        if levels < _LEAST_LEVELS or len(spots) == _MOST_SPOTS:
            break
        x, y = (tile.x + tile.width / 2) / full.width, (tile.y + tile.height / 2) / full.height
        near = [s for s in spots if np.hypot((s.x - x) * full.width, (s.y - y) * full.height) < _reach(full)]
        if not near:
            number = f" {len(spots) + 1}" if spots else ""
            spots.append(Spot(x, y, "differ", f"{NAMES['differ']}{number}"))
    return transform_spots(tuple(spots), framing, Framing(), picture.width, picture.height)


def _reach(full: Window) -> float:
    return _APART * float(np.hypot(full.width, full.height))
