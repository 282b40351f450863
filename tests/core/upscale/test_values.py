"""What the values of a trial do to its result."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from PIL import Image

from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.render.render import render
from wamplex.core.upscale.stages.deconvolution import Deconvolution, deconvolve


def enlarged(picture: Picture, key: str, window: Window | None = None, factor: int = 3, **values: Any) -> np.ndarray:
    recipe = Recipe(base=TrialSpec(upscaler=key, values=Values(**values)), factor=factor)
    return render(picture, recipe, window or Window(0, 0, picture.width * factor, picture.height * factor))


def shrunk_back(result: np.ndarray, picture: Picture) -> np.ndarray:
    """By Pillow's antialiased bicubic in floating point."""
    size = (picture.width, picture.height)
    planes = [Image.fromarray(result[..., c]).resize(size, Image.Resampling.BICUBIC) for c in range(3)]
    return np.stack([np.asarray(plane) for plane in planes], axis=-1)


@pytest.fixture
def picture(photo: np.ndarray) -> Picture:
    return Picture(photo[:60, :80].astype(np.float32) / np.float32(255))


@pytest.mark.parametrize("key", ["mitchell", "lanczos", "vellum"])
def test_the_anchor_brings_the_source_back(key: str, picture: Picture) -> None:
    """Irani and Peleg (1991): each round brings the shrunk result nearer to the source."""
    free = np.abs(shrunk_back(enlarged(picture, key), picture) - picture.pixels)
    held = np.abs(shrunk_back(enlarged(picture, key, back_projection_levels=0), picture) - picture.pixels)
    assert held.mean() < 0.25 * free.mean()
    assert 255 * np.percentile(held, 98) < 2


def test_the_anchor_does_not_bring_softness_back(picture: Picture) -> None:
    """It holds to the source as it is without the softness that was undone."""
    undone = Picture(np.clip(deconvolve(picture.pixels, Deconvolution(blur_px=0.7)), 0, 1))
    held = shrunk_back(enlarged(picture, "vellum", back_projection_levels=0, blur=35), picture)
    to_undone, to_source = (np.abs(held - other.pixels).mean() for other in (undone, picture))
    assert to_undone < 0.5 * to_source


def test_the_anchor_lets_small_differences_be(picture: Picture) -> None:
    free = enlarged(picture, "mitchell")
    assert np.array_equal(enlarged(picture, "mitchell", back_projection_levels=64), free)
    assert not np.array_equal(enlarged(picture, "mitchell", back_projection_levels=2), free)


@pytest.mark.parametrize(
    "values",
    [
        {"back_projection_levels": 1},
        {"self_ensemble": True},
        {"keep_source": 40, "back_projection_levels": 0, "blur": 40},
    ],
)
def test_windows_stay_exact_under_any_value(values: dict[str, Any], picture: Picture) -> None:
    whole = enlarged(picture, "vellum", **values)
    for window in (Window(0, 0, 31, 9), Window(100, 70, 57, 41), Window(239, 179, 1, 1)):
        part = enlarged(picture, "vellum", window, **values)
        same = whole[window.y : window.bottom, window.x : window.right]
        assert np.abs(part - same).max() <= 1 / 65535


def test_keeping_all_of_the_source_is_bicubic(picture: Picture) -> None:
    picture = Picture(0.2 + 0.6 * picture.pixels)  # nothing is cut off at black or white
    kept = enlarged(picture, "lanczos", keep_source=100)
    assert np.abs(kept - enlarged(picture, "bicubic")).max() < 1e-6
    half = enlarged(picture, "lanczos", keep_source=50)
    assert np.abs(half - (kept + enlarged(picture, "lanczos")) / 2).max() < 1e-6


def test_invention_leads_from_vellum_to_thicket(picture: Picture) -> None:
    """What is added grows in proportion: network interpolation (Wang et al. 2018)."""
    vellum = enlarged(picture, "vellum", factor=4)
    steps = [
        np.abs(enlarged(picture, "thicket", factor=4, texture_strength=i) - vellum).mean() for i in (0, 30, 60, 100)
    ]
    assert steps[0] == 0
    assert steps[3] > 0.002
    assert np.allclose(steps[1:], steps[3] * np.array([0.3, 0.6, 1.0]), rtol=0.05)  # less what is clipped


def test_texture_has_no_grid(picture: Picture) -> None:
    """What is added is as strong at every place of the pixel shuffle, but for chance, and alters no mean."""
    added = enlarged(picture, "thicket", factor=4, texture_strength=60) - enlarged(picture, "vellum", factor=4)
    places = np.stack([added[i::4, j::4].ravel() for i in range(4) for j in range(4)])
    strengths = places.std(axis=1)
    assert np.abs(strengths / strengths.mean() - 1).max() < 0.1
    assert np.abs(places.mean(axis=1)).max() < 0.05 * strengths.mean()


def test_texture_stays_when_turns_are_averaged(picture: Picture) -> None:
    single, careful = (
        np.std(
            enlarged(picture, "thicket", factor=4, self_ensemble=c)
            - enlarged(picture, "vellum", factor=4, self_ensemble=c)
        )
        for c in (False, True)
    )
    assert careful == pytest.approx(single, rel=0.05)


def test_no_texture_in_transparency() -> None:
    y, x = np.mgrid[0:40, 0:50]
    pixels = np.random.default_rng(6).random((40, 50, 3), dtype=np.float32)
    picture = Picture(pixels, alpha=(np.hypot(y - 20, x - 25) < 15).astype(np.float32))
    alphas = [enlarged(picture, key, factor=2, texture_strength=100)[..., 3] for key in ("vellum", "thicket")]
    assert np.abs(alphas[0] - alphas[1]).max() < 1e-6


def test_careful_is_blind_to_how_the_picture_lies(picture: Picture) -> None:
    """The mean over all eight flips and turns turns with the picture; a single run does not."""
    turned = Picture(np.ascontiguousarray(np.rot90(picture.pixels)))
    careful = enlarged(picture, "vellum", self_ensemble=True)
    assert np.abs(np.rot90(careful) - enlarged(turned, "vellum", self_ensemble=True)).max() < 1e-5
    assert np.abs(np.rot90(enlarged(picture, "vellum")) - enlarged(turned, "vellum")).max() > 1e-3
