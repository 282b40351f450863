"""Measured noise and compression against what was put in."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from skimage import data

from wamplex.core.analysis.compression.file_compression import read_compression, standard_table
from wamplex.core.analysis.degradation.noise_level import estimate_noise_levels
from wamplex.core.analysis.suggestion.suggestion import measure_and_suggest
from wamplex.core.model.picture import Picture
from wamplex.core.model.source import Source


@pytest.mark.parametrize("quality", [20, 35, 50, 62, 75, 85, 92, 95])
@pytest.mark.parametrize("subsampling", [0, 2])
def test_quality_is_read_from_the_tables(quality: int, subsampling: int, tmp_path: Path) -> None:
    """Pillow writes with the Independent JPEG Group's library, whose scale this is."""
    path = tmp_path / "saved.jpg"
    Image.fromarray(data.coffee()).save(path, quality=quality, subsampling=subsampling)
    assert read_compression(path.read_bytes()).quality == quality


def test_tables_are_the_standards() -> None:
    """ITU-T T.81, K.1: quality 50 is the printed table; its first row starts 16 11 10 16 24 40 51 61."""
    assert standard_table(50, chroma=False)[:8].tolist() == [16, 11, 10, 16, 24, 40, 51, 61]
    assert standard_table(100, chroma=True).max() == 1


@pytest.mark.parametrize("levels", [5, 10, 15, 25])
@pytest.mark.parametrize("name", ["astronaut", "coffee", "chelsea", "rocket"])
def test_noise_is_measured_in_levels(levels: float, name: str) -> None:
    clean = getattr(data, name)().astype(np.float64)
    noisy = clean + np.random.default_rng(3).normal(0, levels, clean.shape)
    picture = Picture((np.clip(np.rint(noisy), 0, 255) / 255).astype(np.float32))
    assert estimate_noise_levels(picture) == pytest.approx(levels, rel=0.2)


def test_suggestions_state_their_reason(tmp_path: Path) -> None:
    path = tmp_path / "saved.jpg"
    Image.fromarray(data.coffee()).save(path, quality=40)
    with Image.open(path) as image:
        picture = Picture(np.asarray(image).astype(np.float32) / np.float32(255), source=Source.of(path))
    found = measure_and_suggest(picture)
    assert (found.upscaler, found.values.compression) == ("mender", 60)
    assert "quality 40" in found.reasons["compression"]
    assert found.reason == found.reasons["compression"]
    without_file = measure_and_suggest(Picture(picture.pixels))
    assert (without_file.values.compression, "the pixels show" in without_file.reasons["compression"]) == (60, True)
    assert measure_and_suggest(Picture(data.coffee().astype(np.float32) / np.float32(255))).values.compression == 0
