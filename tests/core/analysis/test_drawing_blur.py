"""Softness of drawings against blur that another library put in."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image, ImageDraw
from scipy.ndimage import gaussian_filter

from wamplex.core.analysis.degradation.degradation_estimator import Estimate
from wamplex.core.analysis.degradation.drawing_blur import estimate_drawing_blur
from wamplex.core.analysis.report.condition import UPSCALING_ROWS, measure_whole_condition
from wamplex.core.analysis.report.findings import LEAST_SOFTNESS_PX
from wamplex.core.model.picture import Picture


@pytest.fixture(scope="module")
def drawing() -> np.ndarray:
    """(300, 300, 3) float32: shapes in flat colours with outlines, shrunk to a third by Pillow."""
    random = np.random.default_rng(4)
    large = Image.new("RGB", (900, 900), "ivory")
    draw = ImageDraw.Draw(large)
    for _ in range(60):
        x, y, size = (int(n) for n in random.integers((0, 0, 40), (820, 820, 160)))
        colour = tuple(int(n) for n in random.integers(0, 255, 3))
        shape = (draw.ellipse, draw.rectangle)[int(random.integers(2))]
        shape((x, y, x + size, y + size), fill=colour, outline="black", width=6)
    return np.asarray(large.resize((300, 300), Image.Resampling.BICUBIC), np.float32) / 255


@pytest.mark.parametrize("blur_px", [0.4, 0.6, 0.8, 1.0])
@pytest.mark.parametrize("off_px", [-0.15, 0.15])
def test_what_is_read_wrongly_is_put_right(drawing: np.ndarray, blur_px: float, off_px: float) -> None:
    soft = gaussian_filter(drawing[..., 1], blur_px)
    found = estimate_drawing_blur(soft, Estimate(blur_px + off_px, 0.1))
    assert found.value == pytest.approx(blur_px, abs=0.12)
    assert found.uncertainty == 0.05


def test_what_is_sharp_stays_below_what_is_told(drawing: np.ndarray) -> None:
    assert estimate_drawing_blur(drawing[..., 1], Estimate(0.03, 0.05)).value < LEAST_SOFTNESS_PX


def test_where_nothing_is_drawn_it_stays_as_read() -> None:
    read = Estimate(0.4, 0.1)
    assert estimate_drawing_blur(np.full((90, 90), 0.5, np.float32), read) == read


def test_it_is_tried_where_a_picture_is_clean_alone(drawing: np.ndarray) -> None:
    soft = gaussian_filter(drawing, (0.6, 0.6, 0))
    noisy = soft + np.random.default_rng(1).normal(0, 12 / 255, soft.shape)
    clean, spoilt = (
        measure_whole_condition(Picture(np.clip(p, 0, 1).astype(np.float32)), None, UPSCALING_ROWS)
        for p in (soft, noisy)
    )
    assert clean.read is not None
    assert spoilt.read is not None
    assert clean.content_type is not None
    assert clean.content_type.kind == "drawing"
    assert clean.read.blur.value == pytest.approx(0.6, abs=0.1)
    assert clean.read.blur.uncertainty <= 0.05 < spoilt.read.blur.uncertainty
