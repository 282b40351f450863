"""``import wamplex``: the same kind of image comes out, with the pixels that the window would deliver."""

from __future__ import annotations

import doctest
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image

import wamplex
from wamplex.core.base.window import Window
from wamplex.core.intake.read import read_picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.render.render import render
from wamplex.library import functions


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16, np.float32, np.float64])
@pytest.mark.parametrize("channels", [None, 1, 3, 4])
def test_arrays_come_back_as_they_were(dtype: type[np.generic], channels: int | None) -> None:
    shape = (20, 30) if channels is None else (20, 30, channels)
    whole = {"uint8": 255, "uint16": 65535}.get(np.dtype(dtype).name, 1)
    array: NDArray[np.float64] = (np.random.default_rng(1).uniform(0.5, 1, shape) * whole).astype(dtype)
    big = wamplex.enlarge(array, 2, upscaler="nearest")
    assert (big.dtype, big.shape) == (array.dtype, (40, 60, *shape[2:]))
    assert np.allclose(big[::2, ::2], array, atol=1 if whole > 1 else 1e-6)


@pytest.mark.parametrize("mode", ["L", "RGB", "RGBA", "P", "1", "LA"])
def test_pillow_images_come_back_as_pillow_images(mode: str, photo: NDArray[np.uint8]) -> None:
    small = Image.fromarray(photo).convert(mode)
    small.info["icc_profile"] = b"profile"
    big = wamplex.enlarge(small, 1.5, upscaler="lanczos")
    assert isinstance(big, Image.Image)
    assert big.size == (225, 180)
    assert big.mode == {"P": "RGB", "1": "L", "LA": "RGBA"}.get(mode, mode)
    assert big.info["icc_profile"] == b"profile"


def test_the_pixels_are_those_of_the_export(photo_file: Path) -> None:
    whole = wamplex.enlarge(wamplex.open(photo_file), 3, upscaler="vellum", crispness=30)
    recipe = Recipe(base=TrialSpec(upscaler="vellum", values=Values(crispness=30)), factor=3)
    meant = render(read_picture(photo_file), recipe, Window(0, 0, 450, 360))
    assert np.array_equal(whole.pixels, meant)


def test_what_is_suggested_is_used(photo: NDArray[np.uint8]) -> None:
    steps: list[float] = []
    sheet = wamplex.assess(photo)
    big = wamplex.enlarge(photo, 2, progress=lambda done, _text: steps.append(done))
    key = sheet["suggested"]["upscaler"]
    plain = wamplex.enlarge(photo, 2, upscaler=key)
    assert big.shape == plain.shape == (240, 300, 3)
    assert not np.array_equal(big, plain)  # crispness is suggested
    assert steps[-1] == 1.0


@pytest.mark.parametrize(
    ("image", "text"),
    [
        ("a.jpg", "is no image"),
        (np.zeros((4, 4, 2), np.uint8), "shape"),
        (np.zeros((0, 4, 3), np.uint8), "shape"),
        (np.zeros((4, 4), np.int64), "int64"),
        (np.full((4, 4), 2.0), "0 to 1"),
        (Image.new("I;16", (4, 4)), "mode"),
    ],
)
def test_what_is_no_image_is_refused_in_words(image: object, text: str) -> None:
    with pytest.raises(wamplex.WamplexError, match=text) as refused:
        wamplex.enlarge(image)
    assert isinstance(refused.value, TypeError)


def test_unknown_upscalers_and_values_are_refused(photo: NDArray[np.uint8]) -> None:
    with pytest.raises(wamplex.WamplexError, match="magic"):
        wamplex.enlarge(photo, upscaler="magic")
    with pytest.raises(wamplex.WamplexError, match="has no value “noise”"):
        wamplex.enlarge(photo, upscaler="lanczos", noise=3)
    with pytest.raises(wamplex.WamplexError):
        wamplex.enlarge(photo, factor=1000)


def test_the_examples_of_the_docstrings_hold() -> None:
    result = doctest.testmod(functions)
    assert result.attempted >= 8
    assert result.failed == 0


def test_importing_it_loads_nothing_heavy() -> None:
    code = "import sys, wamplex; print([m for m in ('numpy', 'onnxruntime', 'PySide6', 'pyvips') if m in sys.modules])"
    run = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert run.stdout.strip() == "[]"


def test_everything_public_is_there() -> None:
    assert all(hasattr(wamplex, name) for name in wamplex.__all__)
    assert wamplex.__version__.startswith("0.")
    with pytest.raises(AttributeError):
        _ = wamplex.magic
