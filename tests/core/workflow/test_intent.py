"""What is wanted of many pictures, resolved for each."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest

from wamplex.core.analysis.suggestion.suggestions import Suggestions
from wamplex.core.base.errors import SizeError
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.intake.probe import Probe
from wamplex.core.model.source import Source
from wamplex.core.model.upscale_values import Values
from wamplex.core.workflow.orders.intent import Intent, SizeIntent, resolve, resolve_layout

LYING = Probe(Source(Path("/a.jpg"), 1, 1), "JPEG", 600, 400, 8, "RGB", False, None, None, 1)
UPRIGHT = replace(LYING, width=400, height=600)
NOISY = Suggestions(
    "mender",
    "it is noisy",
    Values(noise=14, compression=30, blur=20),
    {"noise": "7 levels measured", "compression": "JPEG 70", "blur": "0.4 px measured"},
    shrink_first=2.0,
)


@pytest.mark.parametrize(
    ("size", "pixels"),
    [
        (SizeIntent(factor=3), (1800, 1200)),
        (SizeIntent(width_px=1500), (1500, 1000)),
        (SizeIntent(print_mm=(254, 254), density_ppi=100), (1000, 667)),
        (SizeIntent(sheet=Sheet(width_mm=254, height_mm=127), density_ppi=100), (750, 500)),
    ],
)
def test_a_size_said_in_any_way(size: SizeIntent, pixels: tuple[int, int]) -> None:
    size.check()
    placed = resolve_layout(Intent(size=size), LYING)
    assert (placed.size.width_px, placed.size.height_px) == pixels


def test_sheets_lie_as_each_picture_does() -> None:
    intent = Intent(size=SizeIntent(sheet=Sheet(width_mm=297, height_mm=210, place="fill")))
    for found, sides in ((LYING, (297, 210)), (UPRIGHT, (210, 297))):
        placed = resolve_layout(intent, found)
        assert placed.sheet is not None
        assert (placed.sheet.width_mm, placed.sheet.height_mm) == sides
        assert placed.framing.crop is not None
        assert placed.size.width_mm == pytest.approx(sides[0], abs=0.2)


def test_what_is_left_open_is_measured_anew_and_says_why() -> None:
    intent = Intent(size=SizeIntent(factor=2), fixed={"noise": 40.0, "texture_strength": 10.0})
    recipe, reasons = resolve(intent, LYING, NOISY)
    assert recipe.upscaler == "mender"
    assert (recipe.values.noise, recipe.values.compression, recipe.values.blur) == (40, 30, 20)
    assert recipe.framing.shrink_first == 2
    assert reasons[0] == "Mender is suggested because it is noisy"
    assert "Noise 40: as you chose" in reasons
    assert "Compression 30: JPEG 70" in reasons
    assert "--texture is ignored: Mender has no such value" in reasons


def test_an_upscaler_that_is_named_stays() -> None:
    recipe, reasons = resolve(Intent(SizeIntent(factor=2), upscaler="lanczos"), LYING, NOISY)
    assert recipe.upscaler == "lanczos"
    assert recipe.values == Values()
    assert recipe.framing.shrink_first == 1
    assert reasons == ()


@pytest.mark.parametrize(
    "size",
    [
        SizeIntent(),
        SizeIntent(factor=2, width_px=100),
        SizeIntent(factor=99),
        SizeIntent(factor=2, density_ppi=1),
    ],
)
def test_impossible_sizes_are_refused(size: SizeIntent) -> None:
    with pytest.raises(SizeError):
        size.check()


def test_a_crop_that_does_not_fit_is_refused() -> None:
    framing = Framing(crop=Crop(x=0, y=0, width=500, height=500))
    with pytest.raises(SizeError, match="reaches over"):
        resolve_layout(Intent(SizeIntent(factor=2), framing=framing), LYING)
