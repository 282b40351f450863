"""Places that nothing is added to stay where they are in the picture, however it is framed."""

from __future__ import annotations

import numpy as np
import pytest
from skimage import data

from wamplex.core.base.window import Window
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.model.picture import Picture
from wamplex.core.model.protected_places import ProtectedPlaces, framed_places, remaining_weight
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.render.render import render


def test_inside_is_nothing_outside_all() -> None:
    made = remaining_weight((ProtectedPlaces(x=0.5, y=0.25, radius=0.1),), 100, 80, Window(0, 0, 100, 80))
    assert made[20, 50] == 0
    assert made[20, 50 + 9] == 0
    assert 0 < made[20, 50 + 12] < 1
    assert made[20, 50 + 15] == 1
    part = remaining_weight((ProtectedPlaces(x=0.5, y=0.25, radius=0.1),), 100, 80, Window(40, 10, 30, 20))
    assert np.array_equal(part, made[10:30, 40:70])


@pytest.mark.parametrize(
    ("framing", "place"),
    [
        (Framing(turns=1), (1 - 0.25, 0.5, 0.1 * 100 / 80)),
        (Framing(flipped=True), (0.5, 0.25, 0.1)),
        (Framing(crop=Crop(x=30, y=10, width=50, height=40)), (20 / 50, 10 / 40, 0.2)),
    ],
)
def test_they_move_with_the_picture(framing: Framing, place: tuple[float, float, float]) -> None:
    (moved,) = framed_places((ProtectedPlaces(x=0.5, y=0.25, radius=0.1),), framing, 100, 80)
    assert (moved.x, moved.y, moved.radius) == pytest.approx(place)


def test_no_texture_is_added_to_a_face() -> None:
    """Inside the place Thicket's result is Vellum's; elsewhere it is not."""
    grass = data.grass()[:60, :60, None].repeat(3, axis=2)
    picture = Picture(grass.astype(np.float32) / 255)
    values = Values(texture_strength=100, protected=(ProtectedPlaces(x=0.5, y=0.5, radius=0.25),))
    whole = Window(0, 0, 120, 120)
    for framing in (Framing(), Framing(turns=1)):
        thicket = render(
            picture,
            Recipe(base=TrialSpec(upscaler="thicket", values=values), factor=2, framing=framing),
            whole,
        )
        vellum = render(picture, Recipe(base=TrialSpec(upscaler="vellum"), factor=2, framing=framing), whole)
        added = np.abs(thicket - vellum).max(axis=2)
        assert added[45:75, 45:75].max() < 1e-5
        assert added[:20].mean() > 0.005
