"""What must hold for every size, framing and window, not only for those somebody thought of."""

from __future__ import annotations

from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from wamplex.core.base.errors import SizeError
from wamplex.core.base.window import Window
from wamplex.core.geometry.framing import Crop, Framing, from_framed, to_framed
from wamplex.core.geometry.size import LARGEST_FACTOR, LEAST_FACTOR, Size, fit_into_mm, output_pixels
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.render.plan import plan
from wamplex.core.render.render import render

SIDES = st.integers(1, 40_000)
FACTORS = st.floats(LEAST_FACTOR, LARGEST_FACTOR)
PLAIN = st.sampled_from(["nearest", "bilinear", "bicubic", "mitchell", "lanczos", "contour"])


@given(SIDES, SIDES, FACTORS)
def test_both_sides_of_a_result_are_within_half_a_pixel_of_the_factor(width: int, height: int, factor: float) -> None:
    across, down = output_pixels(width, height, factor)
    assert min(across, down) >= 1
    assert abs(across - width * factor) <= max(0.5 + 1e-6, 1 - width * factor)
    assert abs(down - height * factor) <= max(0.5 + 1e-6, 1 - height * factor)


@given(st.integers(64, 40_000), st.integers(64, 40_000), st.floats(0.3, 7.9), st.floats(30, 1200))
def test_factor_pixels_and_print_size_are_one_thing_seen_three_ways(
    width: int, height: int, factor: float, density: float
) -> None:
    size = Size(width, height, factor, density)
    for same in (size.with_width_px(size.width_px), size.with_height_px(size.height_px)):
        assert abs(same.width_px - size.width_px) * height <= max(width, height)  # the ratio is the source's
    assert np.isclose(size.width_mm, size.width_px * 25.4 / density, rtol=1e-9)
    denser = size.with_density(density)
    assert (denser.width_px, denser.height_px) == (size.width_px, size.height_px)


@given(st.integers(10, 9000), st.integers(10, 9000), st.floats(20, 2000), st.floats(20, 2000))
def test_what_is_fitted_into_a_paper_lies_within_it(width: int, height: int, across: float, down: float) -> None:
    try:
        fitted = fit_into_mm(Size(width, height, 1.0, 300), across, down)
    except SizeError:
        return  # out of the range of factors, said in words
    pixel = 25.4 / fitted.density_ppi
    assert fitted.width_mm <= across + pixel
    assert fitted.height_mm <= down + pixel


@given(st.integers(0, 3), st.booleans(), st.floats(-15, 15), st.data())
def test_a_place_goes_through_any_framing_and_back(
    turns: Any, mirrored: bool, angle: float, data: st.DataObject
) -> None:
    width, height = data.draw(st.integers(60, 5000)), data.draw(st.integers(60, 5000))
    framing = Framing(turns=turns, flipped=mirrored, straighten_deg=angle)
    x, y = data.draw(st.floats(0, width)), data.draw(st.floats(0, height))
    there = from_framed(framing, width, height, *to_framed(framing, width, height, x, y))
    assert np.allclose(there, (x, y), atol=1e-6 * max(width, height))


@settings(max_examples=25, deadline=None)
@given(PLAIN, st.floats(0.3, 6), st.floats(-10, 10), st.integers(0, 3), st.data())
def test_any_window_equals_that_window_of_the_whole(
    upscaler: str, factor: float, angle: float, turns: Any, data: st.DataObject
) -> None:
    """The first promise, for whatever recipe."""
    pixels = np.random.default_rng(1).random((37, 29, 3), np.float32)
    framing = Framing(turns=turns, straighten_deg=angle, crop=Crop(x=4, y=5, width=17, height=15))
    recipe = Recipe(base=TrialSpec(upscaler=upscaler), factor=factor, framing=framing)
    picture = Picture(pixels)
    plan_of = plan(picture, recipe)
    width, height = plan_of.size.width_px, plan_of.size.height_px
    whole = render(picture, recipe, Window(0, 0, width, height))
    x, y = data.draw(st.integers(0, width - 1)), data.draw(st.integers(0, height - 1))
    window = Window(x, y, data.draw(st.integers(1, width - x)), data.draw(st.integers(1, height - y)))
    part = whole[y : y + window.height, x : x + window.width]
    assert np.abs(render(picture, recipe, window) - part).max() <= 1 / 65535
