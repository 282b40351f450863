"""A recipe that does not fit is refused before anything is made."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from wamplex.core.base.errors import RecipeError, SizeError
from wamplex.core.base.window import Window
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.render.plan import plan
from wamplex.core.render.render import render
from wamplex.core.trial.registry import UPSCALERS

PICTURE = Picture(np.random.default_rng(3).random((40, 60, 3), np.float32))


@pytest.mark.parametrize(
    ("x", "width", "words"),
    [(30, 40, "reaches over the edge"), (200, 20, "reaches over the edge"), (0, 4, "at least 8 pixels")],
)
def test_a_crop_that_does_not_fit_is_refused_in_words(x: int, width: int, words: str) -> None:
    recipe = Recipe(framing=Framing(crop=Crop(x=x, y=0, width=width, height=20)))
    with pytest.raises(SizeError, match=words):
        render(PICTURE, recipe, Window(0, 0, 8, 8))


def test_an_unknown_upscaler_is_refused_in_words() -> None:
    with pytest.raises(RecipeError, match="no upscaler called “magic”"):
        plan(PICTURE, Recipe(base=TrialSpec(upscaler="magic")))


@pytest.mark.parametrize(
    ("value", "changes"),
    [
        (Recipe(), {"factor": 99.0}),
        (Recipe(), {"fctor": 2.0}),
        (Values(), {"noise": -1.0}),
        (Delivery(), {"quality": 101}),
        (Framing(), {"straighten_deg": 90.0}),
    ],
)
def test_copies_are_checked_like_the_first(value: Any, changes: dict[str, Any]) -> None:
    with pytest.raises(RecipeError, match=next(iter(changes))):
        value.replace(**changes)
    with pytest.raises(RecipeError):
        value.model_copy(update=changes)


def test_a_copy_has_the_rest_as_it_was() -> None:
    recipe = Recipe(base=TrialSpec(upscaler="burin", values=Values(noise=7.0)), factor=3.0)
    assert recipe.replace(factor=2.0) == Recipe(base=TrialSpec(upscaler="burin", values=Values(noise=7.0)), factor=2.0)


def test_a_window_beyond_the_result_is_refused() -> None:
    planned = plan(PICTURE, Recipe(base=TrialSpec(upscaler="bicubic"), factor=2.0))
    assert (planned.width, planned.height) == (120, 80)
    with pytest.raises(ValueError, match="reaches over"):
        planned.render(Window(100, 0, 30, 10))


@pytest.mark.parametrize("key", [upscaler.key for upscaler in UPSCALERS])
@pytest.mark.parametrize("factor", [0.5, 1.0, 2.5, 6.0])
def test_tiles_are_of_some_size_and_follow_the_factor(key: str, factor: float) -> None:
    small, large = PICTURE, Picture(np.zeros((1000, 1500, 3), np.float32))
    for picture in (small, large):
        columns, rows = plan(picture, Recipe(base=TrialSpec(upscaler=key), factor=factor)).tile
        assert columns >= 1
        assert rows >= 1
        assert columns * rows <= 60e6  # what a tile of 600,000 px becomes at most, or a band
