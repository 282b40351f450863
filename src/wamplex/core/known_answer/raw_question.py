"""A known-answer test of a raw file: shrunk in linear light, and made a mosaic with the file's own noise."""

from __future__ import annotations

import tempfile
from dataclasses import replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.errors import SizeError
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.geometry.size import output_pixels
from wamplex.core.known_answer.question import LARGEST_TRUTH_PX, Question
from wamplex.core.model.development import Development
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.raw_file import RawFile
from wamplex.core.model.recipe import Recipe
from wamplex.core.raw.developer import Developer
from wamplex.core.raw.libraw import read_raw
from wamplex.core.raw.mosaic_dng import MosaicTags, write_mosaic
from wamplex.core.raw.noise_estimation import stated_or_estimated_noise
from wamplex.core.raw.raw_picture import read_developed_picture
from wamplex.core.trial.developed_picture import develop_picture
from wamplex.core.upscale.stages.kernels import CATMULL_ROM
from wamplex.core.upscale.stages.resample import ResampleStage
from wamplex.core.upscale.stages.stage import SourceStage

_LEAST_SIDE_PX = 24
# What a mosaic begins with: red, green, green, blue.
_PATTERN = (0, 1, 1, 2)
_BLACK, _WHITE = 1024, 65535
_SEED = 7  # the same noise for every trial and every time


def make_raw_question(picture: Picture, factor: float) -> Question:
    """Shrink the middle of a raw file, at most 2.4 megapixels of it, and put it in front of its sensor again.

    Parameters
    ----------
    picture : whole and developed as wanted, with its mosaic

    Returns
    -------
    The truth as it is developed, and a small raw file of it.

    Raises
    ------
    SizeError : when the factor does not enlarge, or the picture is too small to be shrunk by it
    """
    raw = picture.raw
    assert raw is not None
    assert raw.mosaic is not None
    if factor <= 1:
        raise SizeError("A known-answer test needs a factor above 1.")
    height, width = raw.developed.shape[:2]
    shrink = min(1.0, (LARGEST_TRUTH_PX / (width * height)) ** 0.5)
    small_size = tuple(int(n * shrink / factor) // 2 * 2 for n in (width, height))
    if min(small_size) < _LEAST_SIDE_PX:
        raise SizeError(
            f"Shrunk {factor:g} times, {width} × {height} px is too small for a known-answer test; "
            f"{_LEAST_SIDE_PX} px a side must be left. Choose a smaller factor."
        )
    wide, high = output_pixels(small_size[0], small_size[1], factor)
    wide, high = min(wide, width), min(high, height)
    part = Window((width - wide) // 2, (height - high) // 2, wide, high)
    linear = raw.developed[part.y : part.bottom, part.x : part.right].astype(np.float32)
    linear = linear / np.float32(raw.white)
    developed = Developer.of(raw, picture.development).developed(linear)
    truth = replace(picture, pixels=np.ascontiguousarray(np.rot90(developed, -raw.turns)), source=None)
    small = _simulate_sensor(raw, picture.development, _shrunk(linear, small_size))
    text = f"the middle {wide} × {high} px, shrunk in linear light, a mosaic again with the file's own noise"
    return Question(small, truth, factor, _upright_part(part, width, height, raw.turns), text)


def _shrunk(linear: Pixels, size: tuple[int, ...]) -> Pixels:
    stage = ResampleStage(SourceStage(Picture(linear)), size[0], size[1], CATMULL_ROM)
    return np.maximum(stage.render(Window(0, 0, size[0], size[1]), Progress()), 0)


def _simulate_sensor(raw: RawFile, development: Development, light: Pixels) -> Picture:
    """The small picture as a raw file that LibRaw has read, developed as the large one is."""
    cell = {0: raw.gains[0], 1: 1.0, 2: raw.gains[2]}
    tags = MosaicTags(
        raw.colours.matrices[-1][1],
        (1 / cell[0], 1.0, 1 / cell[2]),
        pattern=_PATTERN,
        black=(_BLACK,) * 4,
        white=_WHITE,
    )
    with tempfile.TemporaryDirectory(prefix="wamplex-") as folder:
        path = Path(folder) / "small.dng"
        write_mosaic(path, _levels(raw, light), tags)
        read = read_raw(path, development.method)
    simulated = replace(read, colours=raw.colours, turns=raw.turns, noise=stated_or_estimated_noise(raw))
    by_libraw = "ahd" if development.method == "tessera" else development.method
    small = read_developed_picture(simulated, development.replace(method=by_libraw), Progress())
    return develop_picture(small, Recipe(development=development))


def _levels(raw: RawFile, light: Pixels) -> NDArray[np.uint16]:
    """Simulate the sensor for balanced light, with the noise of the file."""
    random = np.random.default_rng(_SEED)
    noise = stated_or_estimated_noise(raw)
    mosaic_light = np.empty(light.shape[:2])
    for place, channel in enumerate(_PATTERN):
        rows, columns = slice(place // 2, None, 2), slice(place % 2, None, 2)
        signal = np.clip(light[rows, columns, channel] / raw.gains[channel], 0, 1).astype(np.float64)
        variance = noise[channel].shot * signal + noise[channel].read
        mosaic_light[rows, columns] = signal + random.normal(0, 1, signal.shape) * np.sqrt(variance)
    return np.clip(np.rint(_BLACK + mosaic_light * (_WHITE - _BLACK)), 0, _WHITE).astype(np.uint16)


def _upright_part(part: Window, width: int, height: int, turns: int) -> Window:
    """Window of a centred part of the sensor in the upright picture."""
    if turns % 2 == 0:
        return part
    return Window((height - part.height) // 2, (width - part.width) // 2, part.height, part.width)
