"""Affine maps between images, and what depends on them."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from skimage.transform import AffineTransform, EuclideanTransform

from wamplex.core.base.window import Window
from wamplex.core.geometry.framing import Crop, Framing, oriented_placement
from wamplex.core.geometry.placement import Placement
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.render.plan import plan
from wamplex.core.trial.framed_picture import orient_pixels
from wamplex.core.upscale.stages.stage import SourceStage

PLACES = np.array([[0.0, 0.0], [3.0, 7.5], [-2.0, 11.0]])


def matrix(place: Placement) -> np.ndarray:
    return np.array([[place.xx, place.xy, place.x0], [place.yx, place.yy, place.y0], [0, 0, 1]], dtype=np.float64)


def test_maps_agree_with_scikit_image() -> None:
    one = Placement.rotation(20, 30, 40)
    turn = EuclideanTransform(rotation=np.radians(20))
    around = AffineTransform(translation=(-15, -20)) + turn + AffineTransform(translation=(15, 20))
    assert np.allclose(matrix(one), around.params)
    other = Placement.scaling(2, 3).then(Placement.translation(5, -1))
    assert np.allclose(matrix(other), (AffineTransform(scale=(2, 3), translation=(5, -1))).params)
    assert np.allclose(matrix(one.then(other)), matrix(other) @ around.params)
    assert np.allclose(matrix(one.inverse), np.linalg.inv(around.params))
    assert np.allclose(np.stack(one.at(PLACES[:, 0], PLACES[:, 1]), axis=1), around(PLACES))
    assert other.scale == pytest.approx(2)


@pytest.mark.parametrize("turns", [0, 1, 2, 3])
@pytest.mark.parametrize("flipped", [False, True])
def test_pixels_lie_where_the_map_says_they_do(turns: Any, flipped: bool) -> None:
    pixels = np.arange(6 * 4, dtype=np.float32).reshape(4, 6, 1)
    framing = Framing(turns=turns, flipped=flipped)
    made = orient_pixels(Picture(pixels), framing).pixels
    place = oriented_placement(framing, 6, 4)
    for row in range(4):
        for column in range(6):
            x, y = place.at(column + 0.5, row + 0.5)
            assert made[int(y), int(x), 0] == pixels[row, column, 0]


@pytest.mark.parametrize("channels", [1, 2, 3, 4])
def test_stages_say_what_their_channels_are(channels: int) -> None:
    colour = np.zeros((12, 16, 1 if channels < 3 else 3), np.float32)
    picture = Picture(colour, alpha=np.ones((12, 16), np.float32) if channels in (2, 4) else None)
    layout = {1: "grey", 2: "grey+a", 3: "rgb", 4: "rgb+a"}[channels]
    assert SourceStage(picture).layout == layout
    for key in ("nearest", "lanczos", "contour", "vellum", "mender"):
        values = Values(noise=5, blur=20, back_projection_levels=2, keep_source=10)
        planned = plan(picture, Recipe(base=TrialSpec(upscaler=key, values=values), factor=3.3))
        assert planned.layout == layout
        assert planned.render(Window(0, 0, 3, 3)).shape[2] == channels


def test_stages_say_where_they_lie() -> None:
    source = SourceStage(Picture(np.zeros((40, 60, 3), np.float32)), (7.0, 5.0))
    recipe = Recipe(
        base=TrialSpec(upscaler="vellum"),
        factor=6.0,
        framing=Framing(crop=Crop(x=7, y=5, width=30, height=20)),
    )
    planned = plan(Picture(np.zeros((40, 60, 3), np.float32)), recipe)
    assert (source.origin, source.scale) == ((7.0, 5.0), 1.0)
    assert (planned.origin, planned.scale) == ((7.0, 5.0), 6.0)


def test_invented_texture_belongs_to_the_place_in_the_picture(photo: np.ndarray) -> None:
    """One pixel further to the right, the same place has the same texture."""
    picture = Picture(photo[:90, :120].astype(np.float32) / np.float32(255))

    def texture(x: int) -> np.ndarray:
        framing = Framing(crop=Crop(x=x, y=8, width=100, height=80))
        strong, none = (
            plan(
                picture,
                Recipe(
                    base=TrialSpec(upscaler="thicket", values=Values(texture_strength=n)),
                    factor=4.0,
                    framing=framing,
                ),
            ).render(Window(0, 0, 400, 320))
            for n in (100, 0)
        )
        made: np.ndarray = strong - none
        return made

    one, other = texture(10)[80:-80, 84:-80], texture(11)[80:-80, 80:-84]
    assert one.std() > 0.004
    assert np.corrcoef(one.ravel(), other.ravel())[0, 1] > 0.98
