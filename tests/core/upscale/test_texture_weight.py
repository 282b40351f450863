"""Texture may be added where there is some, and nowhere else."""

from __future__ import annotations

import numpy as np
from PIL import Image, ImageDraw, ImageFont
from skimage import data

from wamplex.core.upscale.networks.texture_weight import texture_weight


def test_paper_ramps_and_straight_edges_have_none() -> None:
    ramp = np.linspace(0, 1, 60, dtype=np.float32)[None, :, None]
    step = (np.mgrid[0:60, 0:60][1] > 29).astype(np.float32)[..., None]
    stripes = (np.mgrid[0:60, 0:60][1] // 3 % 2).astype(np.float32)[..., None]
    for plain in (np.full((60, 60, 1), 0.9, np.float32), np.tile(ramp, (60, 1, 1)), step, stripes):
        assert texture_weight(np.repeat(plain, 3, axis=2)).max() < 0.02


def test_plain_places_beside_busy_ones_have_a_share_too() -> None:
    """Running sums that end a hair below 0 must not become a number that is none."""
    small = Image.fromarray(data.astronaut()).resize((128, 128), Image.Resampling.BICUBIC)
    share = texture_weight(
        np.asarray(small).astype(np.float32) / np.float32(255)
    )  # the helmet is plain white beside the hair
    assert np.isfinite(share).all()
    assert 0 <= share.min() <= share.max() <= 1


def test_lettering_has_next_to_none() -> None:
    page = Image.new("RGB", (240, 120), "white")
    for line in range(6):
        ImageDraw.Draw(page).text((4, 18 * line), "Hollowmere Puppet Theatre 1986", "black", ImageFont.load_default(14))
    assert texture_weight(np.asarray(page).astype(np.float32) / np.float32(255)).mean() < 0.05


def test_gravel_and_grass_have_it_and_a_studio_wall_does_not() -> None:
    """scikit-image's own texture samples, and the wall behind its astronaut."""
    for name in ("gravel", "grass"):
        texture = getattr(data, name)()[::4, ::4].astype(np.float32) / np.float32(255)
        calmer = 0.5 + 0.3 * (texture - texture.mean())
        assert texture_weight(np.repeat(calmer[..., None], 3, axis=2)).mean() > 0.3
    wall = data.astronaut()[:80, 60:160].astype(np.float32) / np.float32(255)
    assert texture_weight(wall).mean() < 0.05
