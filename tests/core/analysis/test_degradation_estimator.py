"""What the reader network finds in pictures whose history is known."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from scipy.ndimage import gaussian_filter
from skimage import data

from wamplex.core.analysis.compression.file_compression import (
    FileCompression,
    equivalent_jpeg_quality,
    read_compression,
)
from wamplex.core.analysis.compression.jpeg_noise import estimate_noise_behind_jpeg
from wamplex.core.analysis.compression.webp_quality import read_webp_quality
from wamplex.core.analysis.degradation.degradation_estimator import (
    KINDS,
    DegradationEstimate,
    estimate_degradation,
)
from wamplex.core.analysis.degradation.features import compute_features

NAMES = ("astronaut", "coffee", "chelsea", "rocket")


def halved(name: str) -> Image.Image:
    """A picture of scikit-image at half its size, as sharp as a clean shrink leaves it."""
    whole = Image.fromarray(getattr(data, name)())
    return whole.resize((whole.width // 2, whole.height // 2), Image.Resampling.BICUBIC)


def read_image(image: Image.Image | np.ndarray, blocks: float = 0.0) -> DegradationEstimate:
    """What is read of it."""
    degradation = estimate_degradation(np.asarray(image).astype(np.float32) / np.float32(255), blocks)
    assert degradation is not None
    return degradation


def test_blur_is_found_in_parts_of_a_pixel() -> None:
    misses = []
    for name in NAMES:
        sharp = np.asarray(halved(name)).astype(np.float32)
        own = read_image(sharp).blur.value
        for sigma in (0.7, 1.2):
            soft = gaussian_filter(sharp, (sigma, sigma, 0), mode="nearest")
            misses.append(abs(read_image(soft).blur.value - np.hypot(sigma, own)))
    assert np.median(misses) < 0.12
    assert max(misses) < 0.35


@pytest.mark.parametrize("name", ["astronaut", "rocket"])
def test_an_unsharp_mask_is_told_from_a_clean_picture(name: str) -> None:
    """Not of the coffee and the cat, which are soft even at half size: the mask only makes up for it."""
    clean = np.asarray(halved(name)).astype(np.float32)
    masked = np.clip(clean + 0.9 * (clean - gaussian_filter(clean, (0.8, 0.8, 0))), 0, 255)
    assert read_image(clean).sharpening.value < 0.2
    assert read_image(masked).sharpening.value > 0.45
    assert read_image(masked).blur.value < 0.1


@pytest.mark.parametrize("name", NAMES)
def test_noise_is_found_behind_compression(name: str) -> None:
    clean = np.asarray(halved(name)).astype(np.float32)
    noisy = np.clip(np.rint(clean + np.random.default_rng(5).normal(0, 12, clean.shape)), 0, 255)
    file = io.BytesIO()
    Image.fromarray(noisy.astype(np.uint8)).save(file, "JPEG", quality=80)
    assert read_image(Image.open(file), 0.2).noise.value == pytest.approx(12, rel=0.5)


@pytest.mark.parametrize("quality", [60, 80, 95])
@pytest.mark.parametrize("sigma", [4, 8, 20])
def test_noise_is_told_from_what_the_quantiser_of_jpeg_left(sigma: int, quality: int) -> None:
    """Against the IJG's library, which Pillow saves with: steps from 1 to 80 levels, most coefficients 0."""
    noisy = 128 + np.random.default_rng(2).normal(0, sigma, (240, 320))
    file = io.BytesIO()
    Image.fromarray(np.clip(np.rint(noisy), 0, 255).astype(np.uint8)).save(file, "JPEG", quality=quality)
    sigma_estimate = estimate_noise_behind_jpeg(np.asarray(Image.open(file)).astype(np.float32), quality)
    assert sigma_estimate == pytest.approx(sigma, rel=0.12)


def test_photographs_are_no_drawings() -> None:
    for name in NAMES:
        assert KINDS[int(np.argmax(read_image(halved(name)).media))] == "photograph"


def test_small_pictures_are_not_read_and_all_others_have_as_many_traits() -> None:
    grey = np.full((200, 300, 3), 0.4, np.float32)
    assert estimate_degradation(grey[:47], 0.0) is None
    assert len({compute_features(grey[:h, :w], 0.1).shape for h, w in ((48, 48), (64, 300), (200, 48))}) == 1
    for plain in (np.zeros_like(grey), grey, np.ones_like(grey)):
        assert np.isfinite(compute_features(plain, 0.0)).all()


@pytest.mark.parametrize("quality", [20, 40, 60, 75, 90])
@pytest.mark.parametrize("name", ["coffee", "rocket"])
def test_the_quality_of_webp_files_is_read(name: str, quality: int, tmp_path: Path) -> None:
    """Against libwebp, which Pillow saves with; the quantisers of RFC 6386."""
    path = tmp_path / "picture.webp"
    halved(name).save(path, quality=quality)
    compression = read_compression(path.read_bytes())
    assert (compression.codec, compression.in_file) == ("webp", True)
    assert compression.quality == pytest.approx(quality, abs=6)


def test_lossless_and_broken_webp_have_no_quality() -> None:
    file = io.BytesIO()
    halved("coffee").save(file, "WEBP", lossless=True)
    whole = file.getvalue()
    for broken in (whole, b"", whole[:11], b"RIFF\0\0\0\0WEBPVP8 \xff\xff\xff\xff", whole[:20] + b"VP8 " * 9):
        assert read_webp_quality(broken) is None


def test_other_codecs_are_counted_as_the_jpeg_that_does_as_much_harm() -> None:
    assert equivalent_jpeg_quality("jpeg", 63) == 63
    assert FileCompression(75, "so", codec="webp").strength == 26
    assert [equivalent_jpeg_quality("avif", q) for q in (40, 60, 85)] == sorted(
        equivalent_jpeg_quality("avif", q) for q in (40, 60, 85)
    )
