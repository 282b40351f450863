"""Where trials disagree: found where it was put, and nowhere when they are the same."""

from __future__ import annotations

import numpy as np
import pytest

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.readings.trial_differences import find_trial_differences, trial_deviation


def with_stripes(x: int, y: int) -> Picture:
    """Grey, with fine stripes in a single place: interpolations differ there and nowhere else."""
    pixels = np.full((240, 320, 3), 0.5, np.float32)
    pixels[y : y + 40, x : x + 40 : 2] = 0.9
    return Picture(pixels)


def trials(framing: Framing | None = None) -> tuple[Recipe, ...]:
    return tuple(
        Recipe(base=TrialSpec(upscaler=key), factor=2, framing=framing or Framing())
        for key in ("nearest", "mitchell", "lanczos")
    )


@pytest.mark.parametrize("framing", [Framing(), Framing(turns=1, crop=Crop(x=10, y=20, width=200, height=280))])
def test_the_place_is_found_in_the_source_whatever_the_framing(framing: Framing) -> None:
    first = find_trial_differences(with_stripes(200, 100), trials(framing))[0]
    assert (first.x, first.y) == (pytest.approx(220 / 320, abs=0.12), pytest.approx(120 / 240, abs=0.16))
    assert first.kind == "differ"


def test_trials_that_agree_have_no_such_place() -> None:
    same = (trials()[1],) * 2
    assert find_trial_differences(with_stripes(200, 100), same) == ()


def test_the_spread_is_the_standard_deviation_of_their_luma() -> None:
    """Two trials d levels apart: d / 2."""
    window = Window(420, 220, 30, 30)
    one, two = trials()[0], trials()[1]
    from wamplex.core.render.render import render

    picture = with_stripes(200, 100)
    apart = np.abs(render(picture, one, window) - render(picture, two, window))[..., 0] * 255 / 2
    assert np.abs(trial_deviation(picture, (one, two), window, Progress()) - apart).max() < 0.01
