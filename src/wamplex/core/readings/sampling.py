"""Readings of a trial as a whole: means over places of the picture."""

from __future__ import annotations

import math
from collections.abc import Sequence

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.readings.catalogue import READINGS
from wamplex.core.readings.reading_input import gather_input

PLACE_SOURCE_PX = 64
WHOLE_PLACES = 12


def readings_at(
    picture: Picture, recipe: Recipe, places: Sequence[tuple[float, float]], progress: Progress | None = None
) -> dict[str, float]:
    """Mean of every reading over places of 64 x 64 source pixels.

    Parameters
    ----------
    picture : the decoded picture
    recipe : all decisions about the picture
    places : middles, as shares of the picture's width and height
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    By the key of each reading, in its own units.
    """
    progress = progress or Progress()
    sums = dict.fromkeys((r.key for r in READINGS), 0.0)
    for x, y in places:
        progress.check()
        reading_input = gather_input(picture, recipe, _window(picture, recipe, x, y), progress)
        for reading in READINGS:
            progress.check()
            sums[reading.key] += reading.measure(reading_input).value
    return {key: total / max(len(places), 1) for key, total in sums.items()}


def sample_places(picture: Picture, recipe: Recipe) -> tuple[tuple[float, float], ...]:
    """Places spread evenly over a result, about 12: the whole at a cost that can be borne.

    Of a small picture no more than cover it.

    Parameters
    ----------
    picture : the decoded picture
    recipe : all decisions about the picture

    Returns
    -------
    Middles, as shares of width and height.
    """
    size = recipe.size(picture.width, picture.height)
    ratio = size.source_width / size.source_height
    columns = min(WHOLE_PLACES, max(1, round(math.sqrt(WHOLE_PLACES * ratio))))
    rows = max(1, round(WHOLE_PLACES / columns))
    columns = min(columns, math.ceil(size.source_width / PLACE_SOURCE_PX))
    rows = min(rows, math.ceil(size.source_height / PLACE_SOURCE_PX))
    return tuple(((c + 0.5) / columns, (r + 0.5) / rows) for r in range(rows) for c in range(columns))


def _window(picture: Picture, recipe: Recipe, x: float, y: float) -> Window:
    size = recipe.size(picture.width, picture.height)
    side = round(PLACE_SOURCE_PX * recipe.factor)
    width, height = min(side, size.width_px), min(side, size.height_px)
    left = min(max(round(x * size.width_px - width / 2), 0), size.width_px - width)
    top = min(max(round(y * size.height_px - height / 2), 0), size.height_px - height)
    return Window(left, top, width, height)
