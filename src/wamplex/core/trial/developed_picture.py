"""The picture of a raw file, developed as its recipe says."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from wamplex.core.base.filters import block_means
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.development import Development
from wamplex.core.model.opened_source import open_source
from wamplex.core.model.picture import Picture
from wamplex.core.model.raw_file import Mosaic, RawFile
from wamplex.core.model.recipe import Recipe
from wamplex.core.raw.libraw import read_raw
from wamplex.core.raw.noise_estimation import stated_or_estimated_noise
from wamplex.core.raw.raw_picture import develop_again, read_developed_picture
from wamplex.core.upscale.networks.mosaic_stage import MosaicNetworkStage
from wamplex.core.upscale.upscalers.tessera import tessera_file


def develop_picture(picture: Picture, recipe: Recipe, progress: Progress | None = None) -> Picture:
    """The picture developed as the recipe says; itself where it is no raw file, or is so already.

    The last ones made are kept with the file, since every tile of a trial asks for the same.

    Parameters
    ----------
    picture : the decoded picture
    recipe : all decisions about the picture
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    The developed picture; the same picture where nothing changes.

    Raises
    ------
    UnreadablePictureError : when another demosaicing method is needed and the file cannot be read
    Cancelled : when ``progress`` is cancelled
    """
    development = recipe.development or Development()
    raw = picture.raw
    if raw is None or picture.development == development:
        return picture
    return raw.cache.get(development, lambda: _develop(picture, development, progress or Progress()))


def develop_small(picture: Picture, development: Development, side_px: int, progress: Progress) -> Picture:
    """About what a development looks like, at no less than twice ``side_px`` a side: for a small view.

    Colours are averaged before they are developed, which hardly differs in a view so small.

    Parameters
    ----------
    picture : the decoded picture
    development : how the raw file is developed
    side_px : longest side, in pixels
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    A small picture, at least twice ``side_px`` a side.
    """
    raw, recipe = picture.raw, Recipe(development=development)
    step = max(picture.width, picture.height) // (2 * side_px)
    if raw is None or step < 2 or development.method != picture.development.method:
        return develop_picture(picture, recipe, progress)
    small = block_means(raw.developed.astype(np.float32), step)
    return read_developed_picture(replace(raw, developed=small, mosaic=None), development, progress)


def _develop(picture: Picture, development: Development, progress: Progress) -> Picture:
    raw = picture.raw
    assert raw is not None
    if development.method == "tessera" and raw.mosaic is not None:
        raw = _develop_with_tessera(raw, raw.mosaic, 2.0**development.exposure_ev, progress)
    elif development.method != picture.development.method and picture.source is not None:
        opened = open_source(picture.source)
        raw = read_raw(opened.path, development.method, opened.name)
    return develop_again(picture, raw, development, progress)


def _develop_with_tessera(raw: RawFile, mosaic: Mosaic, exposure: float, progress: Progress) -> RawFile:
    """Camera colours at the sensor's own size; kept, since balance and tones do not change them."""
    stage = MosaicNetworkStage(
        mosaic, tessera_file(1), gains=raw.gains, exposure=exposure, noise=stated_or_estimated_noise(raw)
    )
    everything = Window(0, 0, mosaic.width, mosaic.height)
    pixels = raw.cache.get(("tessera", exposure), lambda: stage.render(everything, progress))
    return replace(raw, developed=pixels, white=1.0)
