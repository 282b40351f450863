"""Palettes are known from the file (PNG and GIF specifications) and from the pixels."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from skimage import data

from wamplex.core.analysis.content.palette import measure_palette, palette_text, stated_palette
from wamplex.core.analysis.report.condition import measure_whole_condition
from wamplex.core.analysis.report.findings import describe_condition
from wamplex.core.analysis.suggestion.suggestion import measure_and_suggest
from wamplex.core.base.window import Window
from wamplex.core.intake.read import read_picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.readings.full_reference import luma, psnr
from wamplex.core.render.render import render
from wamplex.core.trial.registry import find_upscaler


def reduced(colours: int, *, dots: bool) -> Image.Image:
    """Indexed by Pillow, with or without Floyd and Steinberg's dots."""
    small = Image.fromarray(data.coffee()).resize((180, 120))
    dither = Image.Dither.FLOYDSTEINBERG if dots else Image.Dither.NONE
    return small.quantize(colours, palette=small.quantize(colours), dither=dither)


@pytest.mark.parametrize("suffix", ["png", "gif"])
@pytest.mark.parametrize("colours", [16, 256])
def test_the_files_palette_is_read(suffix: str, colours: int, tmp_path: Path) -> None:
    path = tmp_path / f"a.{suffix}"
    reduced(colours, dots=True).save(path, optimize=False)
    assert stated_palette(path.read_bytes()) == len(Image.open(path).getpalette() or ()) // 3


def test_the_row_says_what_is_known(tmp_path: Path) -> None:
    reduced(64, dots=True).save(tmp_path / "a.png")
    condition = measure_whole_condition(read_picture(tmp_path / "a.png"), rows=("palette", "read", "blur", "medium"))
    rows = {finding.key: finding for finding in describe_condition(condition)}
    assert rows["blur"].reason == "Dots of the palette hide it."
    assert rows["medium"].suggestion is None
    row = rows["palette"]
    assert row.suggestion is not None
    assert row.suggestion.upscaler == "mender"
    assert row.value == "64 colours, dithered"
    assert row.reason == "The file has a palette of 64. Dots stand for the tones between."


def test_pixels_alone_tell_it_too() -> None:
    palette = measure_palette(np.asarray(reduced(16, dots=False).convert("RGB")), b"")
    assert palette is not None
    assert palette_text(palette) == ("16 colours", "Its pixels have no more.")


@pytest.mark.parametrize("name", ["astronaut", "coffee", "camera"])
def test_photographs_have_none(name: str) -> None:
    pixels = getattr(data, name)()
    assert measure_palette(np.dstack([pixels] * 3) if pixels.ndim == 2 else pixels, b"") is None


@pytest.mark.parametrize(("colours", "least_db"), [(2, 8.0), (16, 1.0), (256, 1.0)])
def test_dots_are_cleaned(colours: int, least_db: float, tmp_path: Path) -> None:
    """Bicubic enlarges each dot; what is suggested brings the tones back."""
    truth = Image.fromarray(data.coffee()).crop((100, 20, 436, 290))
    small = truth.resize((112, 90), Image.Resampling.BICUBIC)
    if colours == 2:
        dots = small.convert("1")
    else:
        dots = small.quantize(colours, palette=small.quantize(colours), dither=Image.Dither.FLOYDSTEINBERG)
    dots.save(tmp_path / "dots.png")
    picture = read_picture(tmp_path / "dots.png")
    suggested = measure_and_suggest(picture)
    assert suggested.upscaler == "mender"
    assert "dots" in suggested.reason
    values = suggested.values_for("mender", find_upscaler("mender").values)
    window = Window(0, 0, 336, 270)
    gains = []
    for spec in (TrialSpec(upscaler="bicubic"), TrialSpec(upscaler="mender", values=values)):
        pixels = render(picture, Recipe(base=spec).replace(factor=3), window)
        gains.append(psnr(luma(pixels), luma(np.asarray(truth, np.float32) / np.float32(255))))
    assert gains[1] > gains[0] + least_db
