"""Crispness narrows edges, and does nothing else."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from scipy import ndimage, special

from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.render.render import render
from wamplex.core.upscale.stages.crispness import crisper
from wamplex.core.upscale.stages.shock_filter import Sharpening, curvature_kernels


def enlarged(picture: Picture, window: Window | None = None, factor: float = 4, **values: Any) -> np.ndarray:
    recipe = Recipe(base=TrialSpec(upscaler="vellum", values=Values(**values)), factor=factor)
    size = recipe.size(picture.width, picture.height)
    return render(picture, recipe, window or Window(0, 0, size.width_px, size.height_px))


def slanted_edge(sigma_px: float, side: int = 120, degrees: float = 5.0) -> np.ndarray:
    """An edge from 0.2 to 0.8, slanted as in ISO 12233, (side, side, 3)."""
    y, x = np.mgrid[:side, :side] - side / 2
    across = x * np.cos(np.radians(degrees)) + y * np.sin(np.radians(degrees))
    level = 0.5 + 0.3 * special.erf(across / (2**0.5 * sigma_px))
    return np.repeat(level[..., np.newaxis], 3, axis=2).astype(np.float32)


def rise_px(pixels: np.ndarray) -> float:
    """Distance over which the middle rows rise from a tenth to nine tenths, the 10 to 90 % rise of ISO 12233."""
    widths = []
    for row in pixels[40:80, :, 1]:
        fine = np.interp(np.arange(0, len(row) - 1, 0.01), np.arange(len(row)), row)
        widths.append(0.01 * np.count_nonzero((fine > 0.26) & (fine < 0.74)))
    return float(np.mean(widths))


@pytest.mark.parametrize(("value", "narrower"), [(25, 0.95), (50, 0.87), (100, 0.75)])
def test_an_edge_becomes_narrower_and_never_rings(value: float, narrower: float) -> None:
    soft = slanted_edge(1.3)
    made = crisper(soft, Sharpening(value, 4))
    assert rise_px(made) < narrower * rise_px(soft)
    assert made.min() > 0.2 - 2 / 255
    assert made.max() < 0.8 + 2 / 255


def test_it_does_as_much_in_every_direction() -> None:
    rises = [rise_px(crisper(slanted_edge(1.3, degrees=d), Sharpening(50, 4))) for d in (0.0, 5.0, 20.0, 30.0)]
    projected = [rise * np.cos(np.radians(d)) for rise, d in zip(rises, (0.0, 5.0, 20.0, 30.0), strict=True)]
    assert max(projected) < 1.06 * min(projected)


def test_smooth_places_stay_as_they_are() -> None:
    y, x = np.mgrid[:90, :90].astype(np.float32) / 90
    sky = np.stack([0.5 + 0.2 * y, 0.6 + 0.1 * x * y, 0.8 - 0.1 * y], axis=-1)
    assert np.abs(crisper(sky, Sharpening(100, 4)) - sky).max() < 0.1 / 255


def test_at_the_size_of_the_source_it_looks_as_before(photo: np.ndarray) -> None:
    picture = Picture(photo.astype(np.float32) / np.float32(255))
    plain, crisp = enlarged(picture), enlarged(picture, crispness=100)
    assert np.abs(crisp - plain).max() > 20 / 255
    small = [p.reshape(120, 4, 150, 4, 3).mean((1, 3)) for p in (plain, crisp)]
    assert np.abs(small[1] - small[0]).mean() < 0.6 / 255


@pytest.mark.parametrize(("factor", "value"), [(4, 60), (2, 100), (3.3, 40)])
def test_every_window_is_that_window_of_the_whole(photo: np.ndarray, factor: float, value: float) -> None:
    picture = Picture(photo[:70, :90].astype(np.float32) / np.float32(255))
    whole = enlarged(picture, factor=factor, crispness=value)
    for window in (Window(0, 0, 31, 9), Window(90, 60, 57, 41), Window(whole.shape[1] - 3, whole.shape[0] - 2, 3, 2)):
        part = enlarged(picture, window, factor, crispness=value)
        same = whole[window.y : window.bottom, window.x : window.right]
        assert np.abs(part - same).max() <= 1 / 65535


def test_transparency_is_not_touched(photo: np.ndarray) -> None:
    alpha = np.zeros(photo.shape[:2], np.float32)
    alpha[20:90, 30:100] = 1
    picture = Picture(photo.astype(np.float32) / np.float32(255), alpha=alpha)
    plain, crisp = enlarged(picture), enlarged(picture, crispness=100)
    assert np.array_equal(plain[..., 3], crisp[..., 3])
    assert not np.array_equal(plain, crisp)
    grey = crisper(slanted_edge(2.0)[..., :1], Sharpening(50, 4))
    assert np.allclose(grey[..., 0], crisper(slanted_edge(2.0), Sharpening(50, 4))[..., 1], atol=1e-5)


@pytest.mark.parametrize("direction", [0, 25, 45, 70, 90, 135])
@pytest.mark.parametrize("step_px", [1.25, 1.9])
def test_the_kernels_give_the_curvature_in_any_direction(direction: int, step_px: float) -> None:
    """Of a long wave it is the second derivative: its square of frequency, times the cosine squared between both."""
    frequency, along, turn = 0.06, np.radians(30), np.radians(direction)
    y, x = np.mgrid[:80, :80].astype(float)
    wave = np.sin(frequency * (x * np.cos(along) + y * np.sin(along)))
    mean, across, diagonal = curvature_kernels(step_px)
    kernel = mean + np.cos(2 * turn) * across + np.sin(2 * turn) * diagonal
    made = ndimage.correlate(wave, kernel)[5:-5, 5:-5]
    meant = -((frequency * step_px * np.cos(turn - along)) ** 2) * wave[5:-5, 5:-5]
    assert np.abs(made - meant).max() < 0.15 * (frequency * step_px) ** 2
