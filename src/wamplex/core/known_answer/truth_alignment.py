"""Aligns a truth given as a second file with the small picture."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from wamplex.core.base.errors import SizeError
from wamplex.core.base.lazy_imports import ndimage
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.geometry.size import LARGEST_FACTOR
from wamplex.core.guests.registration import estimate_shift
from wamplex.core.known_answer.question import Question
from wamplex.core.model.picture import Picture
from wamplex.core.upscale.stages.kernels import CATMULL_ROM
from wamplex.core.upscale.stages.resample import ResampleStage
from wamplex.core.upscale.stages.stage import SourceStage

# Proportions may differ by this much, as rounding to whole pixels makes them.
_LARGEST_STRETCH = 0.02


def question_from_truth(small: Picture, truth: Picture) -> Question:
    """The question that a small picture and its large original make.

    The factor follows from the sizes. The shift between them is found, and taken out of the truth.

    Raises
    ------
    SizeError : when the files cannot be a picture and its original
    """
    across, down = truth.width / small.width, truth.height / small.height
    if abs(across / down - 1) > _LARGEST_STRETCH:
        raise SizeError(
            f"{truth.width} × {truth.height} px has other proportions than {small.width} × "
            f"{small.height} px. The truth must show the same part of the picture."
        )
    if not 1 < across <= LARGEST_FACTOR:
        raise SizeError(
            f"The truth is {across:.2f} times as wide as the picture; more than 1 and at most "
            f"{LARGEST_FACTOR:g} times is needed."
        )
    if truth.pixels.shape[2] != small.pixels.shape[2]:
        raise SizeError("One of the two files is grey and the other is in colour.")
    width, height = round(small.width * across), round(small.height * across)
    if (width, height) == (truth.width, truth.height):
        pixels = truth.pixels
    else:
        stage = ResampleStage(SourceStage(replace(truth, alpha=None)), width, height, CATMULL_ROM)
        pixels = np.clip(stage.render(Window(0, 0, width, height), Progress()), 0, 1)
    shift = estimate_shift(small, Picture(pixels))
    if max(abs(s) for s in shift) > 1e-3:
        pixels = ndimage.shift(pixels, (shift[0] * across, shift[1] * across, 0), order=3, mode="nearest")
        pixels = np.clip(pixels, 0, 1).astype(np.float32)
    small_truth = replace(small, pixels=pixels, alpha=None, source=None)
    shift_text = f"moved by {shift[1] * across:+.2f}, {shift[0] * across:+.2f} px to fit"
    text = f"truth of {truth.width} × {truth.height} px, {shift_text}"
    return Question(replace(small, alpha=None), small_truth, across, Window(0, 0, width, height), text, shrunk=False)
