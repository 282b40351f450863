"""Readings on results made to have a known amount of one artifact: more of it reads higher, others stay."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from scipy import ndimage
from skimage import color, data, measure, metrics

from wamplex.core.base.window import Window
from wamplex.core.colour.difference import ciede2000, srgb_to_lab
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.readings.catalogue import READINGS
from wamplex.core.readings.full_reference import gmsd, luma, psnr
from wamplex.core.readings.reading_input import ReadingInput, gather_input

BY_KEY = {reading.key: reading.measure for reading in READINGS}
FACTOR = 4


def scene() -> np.ndarray:
    """Even areas with slanted straight and curved edges between them, (96, 96, 3) in 0..1."""
    y, x = np.mgrid[0:384, 0:384] / 4
    plane = 0.35 + 0.10 * (x / 96)
    plane = np.where(0.35 * x + y > 70, 0.75, plane)
    plane = np.where((x - 60) ** 2 + (y - 28) ** 2 < 18**2, 0.2, plane)
    small = plane.reshape(96, 4, 96, 4).mean(axis=(1, 3))
    return np.stack([small, 0.9 * small, 0.8 * small], axis=-1).astype(np.float32)


@pytest.fixture(scope="module")
def clean() -> ReadingInput:
    """The scene enlarged four times by Mitchell, without its border."""
    return gather_input(
        Picture(scene()), Recipe(base=TrialSpec(upscaler="mitchell"), factor=FACTOR), Window(16, 16, 352, 352)
    )


def grain(shape: tuple[int, ...], cell: int = 1) -> np.ndarray:
    """White noise of standard deviation 1 whose grains are ``cell`` pixels wide."""
    small = np.random.default_rng(9).normal(0, 1, (-(-shape[0] // cell), -(-shape[1] // cell)))
    return ndimage.zoom(small, cell, order=1 if cell > 8 else 0)[: shape[0], : shape[1]]


def stairs(e: ReadingInput, amount: float) -> np.ndarray:
    nearest = e.source[3:-3, 3:-3].repeat(FACTOR, axis=0).repeat(FACTOR, axis=1)
    return (1 - amount) * e.result + amount * nearest


def halos(e: ReadingInput, amount: float) -> np.ndarray:
    soft = ndimage.gaussian_filter(e.result, (FACTOR, FACTOR, 0))
    return e.result + amount * 0.6 * (e.result - soft)


def soft(e: ReadingInput, amount: float) -> np.ndarray:
    return ndimage.gaussian_filter(e.result, (amount * 6, amount * 6, 0)) if amount else e.result


def noise(e: ReadingInput, amount: float) -> np.ndarray:
    return e.result + amount * 6 / 255 * grain(e.result.shape, FACTOR)[..., None]


def coloured(e: ReadingInput, amount: float) -> np.ndarray:
    plane = amount * 8 / 255 * grain(e.result.shape, FACTOR)
    return e.result + np.stack([plane, -plane * (0.299 - 0.114) / 0.587, -plane], axis=-1)


def blocks(e: ReadingInput, amount: float) -> np.ndarray:
    whole = grain((e.height, e.width), 8 * FACTOR)
    cells = np.random.default_rng(3).normal(0, 1, (12, 12)).repeat(32, axis=0).repeat(32, axis=1)
    assert whole.shape == cells.shape
    return e.result + amount * 5 / 255 * cells[16:368, 16:368, None]


def patches(e: ReadingInput, amount: float) -> np.ndarray:
    return e.result + amount * 3 / 255 * grain(e.result.shape, 16)[..., None]


def weave(e: ReadingInput, amount: float) -> np.ndarray:
    y, x = np.mgrid[0:352, 0:352]
    return e.result + amount * 5 / 255 * (np.cos(x * np.pi / 2) * np.cos(y * np.pi / 2))[..., None]


def invented(e: ReadingInput, amount: float) -> np.ndarray:
    return e.result + amount * 8 / 255 * grain(e.result.shape)[..., None]


def darker(e: ReadingInput, amount: float) -> np.ndarray:
    return e.result * (1 - 0.05 * amount)


def warmer(e: ReadingInput, amount: float) -> np.ndarray:
    return e.result + amount * np.array([0.03, 0.0, -0.04])


CASES: list[tuple[str, Callable[[ReadingInput, float], np.ndarray], tuple[str, ...]]] = [
    ("stair-steps", stairs, ("noise", "block-marks", "blotches", "colour-drift", "tone-drift")),
    ("ringing", halos, ("noise", "noise-colour", "block-marks", "colour-drift", "repeated-pattern")),
    ("softness", soft, ("noise", "noise-colour", "ringing", "block-marks", "repeated-pattern")),
    ("blur-effect", soft, ("noise", "noise-colour", "ringing", "block-marks", "repeated-pattern")),
    ("noise-wavelet", noise, ("noise-colour", "colour-drift", "block-marks")),
    ("noise", noise, ("noise-colour", "colour-drift", "block-marks")),
    ("noise-colour", coloured, ("noise", "tone-drift", "block-marks", "softness")),
    ("block-marks", blocks, ("noise-colour", "colour-drift", "repeated-pattern", "softness")),
    ("blotches", patches, ("noise-colour", "block-marks", "colour-drift", "stair-steps")),
    ("repeated-pattern", weave, ("noise-colour", "block-marks", "colour-drift", "tone-drift", "blotches")),
    ("invented-detail", invented, ("noise-colour", "block-marks", "colour-drift", "repeated-pattern")),
    ("tone-drift", darker, ("noise", "block-marks", "stair-steps", "repeated-pattern", "softness")),
    ("colour-drift", warmer, ("noise", "block-marks", "stair-steps", "repeated-pattern", "softness")),
    ("round-trip", warmer, ("noise", "block-marks", "stair-steps", "repeated-pattern")),
]
# What a reading may change by while another artifact grows, in its own unit.
STAYS = {
    "noise": 0.6, "noise-colour": 0.5, "block-marks": 0.5, "blotches": 0.6, "softness": 1.5, "ringing": 0.5,
    "colour-drift": 0.5, "tone-drift": 0.6, "repeated-pattern": 6.0, "stair-steps": 2.0,
}  # fmt: skip


@pytest.mark.parametrize(("key", "put_in", "others"), CASES, ids=[case[0] for case in CASES])
def test_more_of_it_reads_higher_and_others_stay(
    key: str,
    put_in: Callable[[ReadingInput, float], np.ndarray],
    others: tuple[str, ...],
    clean: ReadingInput,
) -> None:
    made = [
        replace(clean, result=np.clip(put_in(clean, amount), 0, 1).astype(np.float32))
        for amount in (0.0, 0.33, 0.67, 1.0)
    ]
    values = [BY_KEY[key](e).value for e in made]
    assert all(b > a for a, b in pairwise(values)), values
    assert BY_KEY[key](made[-1]).trace.sum() > BY_KEY[key](made[0]).trace.sum()
    for other in others:
        moved = BY_KEY[other](made[-1]).value - BY_KEY[other](made[0]).value
        assert abs(moved) < STAYS[other], f"{other} moved by {moved:.2f}"


@pytest.mark.parametrize("reading", READINGS, ids=[r.key for r in READINGS])
@pytest.mark.parametrize("factor", [0.5, 1.0, 2.5, 6.0])
def test_every_reading_works_at_any_factor_and_place(reading, factor: float) -> None:  # type: ignore[no-untyped-def]
    picture = Picture(data.astronaut()[:90, 100:220].astype(np.float32) / 255)
    recipe = Recipe(base=TrialSpec(upscaler="lanczos"), factor=factor)
    size = recipe.size(120, 90)
    for window in (
        Window(0, 0, size.width_px, size.height_px),
        Window(size.width_px // 3, size.height_px // 3, size.width_px // 2, size.height_px // 2),
    ):
        measured = reading.measure(gather_input(picture, recipe, window))
        assert np.isfinite(measured.value)
        assert measured.trace.shape == (window.height, window.width)
        assert np.isfinite(measured.trace).all()
        assert measured.trace.min() >= 0


def test_noise_reads_what_was_put_in() -> None:
    for sigma in (3.0, 8.0):
        noisy = 0.5 + np.random.default_rng(5).normal(0, sigma / 255, (80, 80, 1)).repeat(3, axis=2)
        evidence = gather_input(
            Picture(noisy.astype(np.float32)),
            Recipe(base=TrialSpec(upscaler="nearest"), factor=1),
            Window(0, 0, 80, 80),
        )
        assert BY_KEY["noise"](evidence).value == pytest.approx(sigma, rel=0.1)
        assert BY_KEY["noise-wavelet"](evidence).value == pytest.approx(sigma, rel=0.1)


def test_the_blur_effect_is_scikit_images() -> None:
    """scikit-image's measure.blur_effect implements Crete et al. (2007)."""
    picture = Picture(data.camera()[100:260, 100:260, None].astype(np.float32) / 255)
    evidence = gather_input(picture, Recipe(base=TrialSpec(upscaler="bicubic"), factor=2), Window(0, 0, 320, 320))
    reference = 100 * measure.blur_effect(evidence.luma / 255)
    assert BY_KEY["blur-effect"](evidence).value == pytest.approx(reference, abs=1)


# Sharma, Wu and Dalal (2005), table 1, pairs 1 to 3, 7 and 25; from memory.
@pytest.mark.parametrize(
    ("one", "other", "difference"),
    [
        ((50, 2.6772, -79.7751), (50, 0, -82.7485), 2.0425),
        ((50, 3.1571, -77.2803), (50, 0, -82.7485), 2.8615),
        ((50, 2.8361, -74.0200), (50, 0, -82.7485), 3.4412),
        ((50, 0, 0), (50, -1, 2), 2.3669),
        ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ],
)
def test_ciede2000_has_its_published_values(one: tuple[Any, ...], other: tuple[Any, ...], difference: float) -> None:
    assert float(ciede2000(np.array(one, float), np.array(other, float))) == pytest.approx(difference, abs=1e-4)


def test_colour_values_are_scikit_images() -> None:
    rgb = np.random.default_rng(2).random((2, 40, 40, 3)).astype(np.float32)
    labs = [srgb_to_lab(p) for p in rgb]
    assert np.abs(labs[0] - color.rgb2lab(rgb[0])).max() < 0.02
    assert np.abs(ciede2000(*labs) - color.deltaE_ciede2000(*labs)).max() < 1e-6


def test_psnr_and_gmsd_of_known_differences() -> None:
    plane = luma(data.coffee().astype(np.float32) / 255)
    noisy = plane + np.random.default_rng(4).normal(0, 5, plane.shape)
    assert psnr(noisy, plane) == pytest.approx(metrics.peak_signal_noise_ratio(plane, noisy, data_range=255))
    assert gmsd(plane, plane) == 0
    blurred = [gmsd(ndimage.gaussian_filter(plane, sigma), plane) for sigma in (0.5, 1, 2)]
    assert 0 < blurred[0] < blurred[1] < blurred[2] < 0.4
