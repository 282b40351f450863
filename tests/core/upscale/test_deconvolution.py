"""Known softness, sharpening and movement are undone, without rings, the same in every window."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image
from scipy.ndimage import gaussian_filter, uniform_filter1d
from skimage import data

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture
from wamplex.core.model.upscale_values import Values
from wamplex.core.upscale.stages.deconvolution import (
    Deconvolution,
    DeconvolutionStage,
    deconvolution_kernel,
    deconvolve,
)
from wamplex.core.upscale.stages.stage import SourceStage

# An open picture of scikit-image, shrunk cleanly.
SHRUNK = Image.fromarray(data.astronaut()).resize((256, 256), Image.Resampling.BICUBIC)
PHOTO = (np.asarray(SHRUNK).astype(np.float32) / np.float32(255))[40:200, 40:220]


def blurred(sigma: float) -> np.ndarray:
    """The photograph after SciPy's Gaussian."""
    return gaussian_filter(PHOTO, (sigma, sigma, 0), mode="nearest", truncate=6)


def miss(one: np.ndarray) -> float:
    """Root mean square difference from the photograph, in levels."""
    return float(np.sqrt(np.square(one - PHOTO)[12:-12, 12:-12].mean()) * 255)


@pytest.mark.parametrize(("sigma", "left"), [(0.6, 0.5), (0.8, 0.5), (1.2, 0.75)])
def test_a_gaussian_blur_is_taken_back(sigma: float, left: float) -> None:
    """The stronger it was, the less is there to be taken back."""
    soft = blurred(sigma)
    assert miss(deconvolve(soft, Deconvolution(blur_px=sigma))) < left * miss(soft)


@pytest.mark.parametrize("amount", [0.5, 0.9, 1.5])
def test_an_unsharp_mask_is_taken_back(amount: float) -> None:
    """The mask as its definition has it: ``amount`` times what a blur of 0.8 px takes away is added."""
    sharpened = PHOTO + amount * (PHOTO - gaussian_filter(PHOTO, (0.8, 0.8, 0), mode="nearest", truncate=6))
    assert miss(deconvolve(sharpened.astype(np.float32), Deconvolution(amount=amount))) < 0.25 * miss(sharpened)


@pytest.mark.parametrize(("degrees", "axis"), [(0.0, 1), (90.0, 0)])
def test_a_movement_is_taken_back_along_its_direction_only(degrees: float, axis: int) -> None:
    moved = uniform_filter1d(PHOTO, 5, axis=axis, mode="nearest").astype(np.float32)
    right = miss(deconvolve(moved, Deconvolution(motion_blur_px=5, motion_blur_deg=degrees)))
    assert right < 0.6 * miss(moved)
    assert right < 0.6 * miss(deconvolve(moved, Deconvolution(motion_blur_px=5, motion_blur_deg=90 - degrees)))


@pytest.mark.parametrize(
    "undo", [Deconvolution(1.0), Deconvolution(amount=1.5), Deconvolution(motion_blur_px=7, motion_blur_deg=30)]
)
def test_plain_areas_stay_as_they_are(undo: Deconvolution) -> None:
    assert deconvolution_kernel(undo).sum() == pytest.approx(1, abs=1e-6)
    plain = np.full((40, 50, 3), 0.37, np.float32)
    assert np.abs(deconvolve(plain, undo) - 0.37).max() < 1e-6


def test_a_step_rings_no_further_than_half_its_height() -> None:
    step = np.zeros((40, 60, 1), np.float32)
    step[:, 30:] = 0.5
    made = deconvolve(step, Deconvolution(blur_px=1.5))
    assert made.min() >= -0.25 - 1e-6
    assert made.max() <= 0.75 + 1e-6
    # Two pixels away from it, the source is plain, and so is the result.
    assert np.abs(made[:, :27]).max() == 0
    assert np.abs(made[:, 33:] - 0.5).max() == 0


def test_noise_and_compression_hold_it_back() -> None:
    strongest = [
        float(deconvolution_kernel(Deconvolution(0.8, noise=n, compression=b)).max())
        for n, b in ((0, 0), (0, 0.5), (0.3, 0))
    ]
    assert strongest == sorted(strongest, reverse=True)


def test_windows_equal_the_whole() -> None:
    stage = DeconvolutionStage(SourceStage(Picture(PHOTO)), Deconvolution(0.7, motion_blur_px=3, motion_blur_deg=20))
    whole = stage.render(Window(0, 0, 180, 160), Progress())
    for window in (Window(0, 0, 9, 5), Window(70, 60, 33, 41), Window(179, 159, 1, 1)):
        part = stage.render(window, Progress())
        same = whole[window.y : window.bottom, window.x : window.right]
        assert np.abs(part - same).max() < 1e-6


@pytest.mark.parametrize(
    ("values", "undo"),
    [
        (Values(), None),
        (Values(noise=30, compression=40), None),
        (Values(blur=35), Deconvolution(blur_px=0.7)),
        (Values(blur=-45, compression=25), Deconvolution(amount=0.9, compression=0.25)),
        (Values(motion_blur_px=4, motion_blur_deg=30), Deconvolution(motion_blur_px=4, motion_blur_deg=30)),
    ],
)
def test_values_say_what_is_undone(values: Values, undo: Deconvolution | None) -> None:
    made = Deconvolution.of(values)
    if undo is None or made is None:
        assert made is undo
    else:
        assert vars(made) == pytest.approx(vars(undo))
