"""Kinds of file that can be written, read by libraries of others."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image, JpegImagePlugin

from wamplex.core.base.errors import SizeError
from wamplex.core.deliver.deliver import deliver
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.size_limits import check_size
from wamplex.core.geometry.size import Size
from wamplex.core.intake.read import read_picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec

AS_IT_IS = Recipe(base=TrialSpec(upscaler="nearest"), factor=1)


def delivered(folder: Path, pixels: np.ndarray, **how: object) -> Path:
    source = folder / "source.png"
    Image.fromarray(pixels).save(source)
    return deliver(read_picture(source), AS_IT_IS, Delivery(folder=folder).replace(**how)).path


def noise(*shape: int) -> np.ndarray:
    return np.random.default_rng(4).integers(0, 256, shape, np.uint8)


@pytest.mark.parametrize("shape", [(300, 41, 3), (30, 41, 4), (30, 41)])
def test_webp_loses_nothing(tmp_path: Path, shape: tuple[int, ...]) -> None:
    pixels = noise(*shape)
    if len(shape) == 3 and shape[2] == 4:
        pixels[..., 3] |= 128  # colours that hardly show are not kept by any enlargement
    path = delivered(tmp_path, pixels, format="webp")
    with Image.open(path) as image:
        read = np.asarray(image)
    expected = pixels if pixels.ndim == 3 else np.repeat(pixels[..., None], 3, axis=2)
    assert np.array_equal(read, expected)


def test_a_picture_too_large_for_webp_is_refused_with_what_fits() -> None:
    with pytest.raises(SizeError, match="WebP holds at most 16,383"):
        check_size(Size(5000, 4000, 4.0, 300), Delivery(format="webp"))


@pytest.mark.parametrize("depth", [8, 16])
def test_lzw_is_read_by_tifffile_and_by_pillow(tmp_path: Path, depth: int) -> None:
    pixels = noise(90, 70, 3)
    path = delivered(tmp_path, pixels, format="tiff", compression="lzw", depth=depth)
    with tifffile.TiffFile(path) as file:
        assert file.pages[0].compression.name == "LZW"
        assert np.array_equal(file.asarray() // (257 if depth == 16 else 1), pixels)
    if depth == 8:
        with Image.open(path) as image:
            assert np.array_equal(np.asarray(image), pixels)


@pytest.mark.parametrize(
    ("chroma", "quality", "sampling"),
    # Pillow: 0 is 4:4:4, 1 is 4:2:2, 2 is 4:2:0
    [("444", 80, 0), ("422", 95, 1), ("420", 95, 2), ("auto", 80, 2), ("auto", 95, 0)],
)
def test_chroma_is_kept_as_chosen(tmp_path: Path, chroma: str, quality: int, sampling: int) -> None:
    path = delivered(tmp_path, noise(40, 50, 3), format="jpeg", chroma=chroma, quality=quality)
    with Image.open(path) as image:
        assert JpegImagePlugin.get_sampling(image) == sampling


def test_what_a_jpeg_says_is_the_same_however_its_colour_is_kept(tmp_path: Path) -> None:
    said = []
    for chroma in ("444", "422"):
        folder = tmp_path / chroma
        folder.mkdir()
        path = delivered(folder, noise(40, 50, 3), format="jpeg", chroma=chroma, quality=98)
        read = read_picture(path)
        said.append((read.density_ppi, read.profile, read.metadata.xmp))
        assert np.abs(read.pixels - noise(40, 50, 3) / 255.0).mean() < 0.2
    assert said[0] == said[1]
    with pytest.raises(SizeError, match="150 megapixels"):
        check_size(Size(5000, 4000, 3.0, 300), Delivery(format="jpeg", chroma="422"))


@pytest.mark.parametrize("progressive", [True, False])
def test_a_progressive_jpeg_says_so(tmp_path: Path, progressive: bool) -> None:
    path = delivered(tmp_path, noise(40, 50, 3), format="jpeg", progressive=progressive)
    with Image.open(path) as image:
        assert ("progressive" in image.info) == progressive
