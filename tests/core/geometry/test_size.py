"""The arithmetic of print sizes, against published figures."""

from __future__ import annotations

import pytest

from wamplex.core.base.errors import SizeError
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.size_limits import check_size
from wamplex.core.geometry.size import Size, fit_into_mm, sharp_distance_mm
from wamplex.core.geometry.size_text import parse_print_size, size_summary


def test_300_ppi_is_118_11_pixels_per_cm() -> None:
    """NIST SP 811 (2008), appendix B: an inch is exactly 2.54 cm."""
    size = Size(1000, 1000, 1.0, 300)
    assert 1000 / (size.width_mm / 10) == pytest.approx(118.11, abs=0.005)


def test_a4_at_300_ppi_is_2480_by_3508() -> None:
    """ISO 216 gives A4 as 210 x 297 mm; 2480 x 3508 px at 300 ppi is common practice."""
    assert Size(1000, 1414, 1.0, 300).with_width_mm(210).width_px == 2480
    assert Size(1000, 1414, 1.0, 300).with_height_mm(297).height_px == 3508


def test_300_ppi_is_sharp_from_29_cm() -> None:
    """One arc minute, Snellen's (1862) normal acuity: 84.67 um / tan(1') = 29.1 cm."""
    assert sharp_distance_mm(300) == pytest.approx(291, abs=0.5)


@pytest.mark.parametrize("factor", [0.25, 1, 2, 3.7, 8])
def test_each_way_of_saying_a_size_comes_back(factor: float) -> None:
    size = Size(403, 307, factor, 240)
    for again in (
        size.with_factor(factor),
        size.with_width_px(size.width_px),
        size.with_height_px(size.height_px),
        size.with_width_mm(size.width_mm),
        size.with_height_mm(size.height_mm),
    ):
        assert abs(again.width_px - size.width_px) <= 1
        assert abs(again.height_px - size.height_px) <= 1


def test_a_wanted_width_is_met_exactly() -> None:
    for width in range(101, 3200, 7):
        assert Size(401, 300, 1.0).with_width_px(width).width_px == width


def test_density_changes_the_print_but_not_the_pixels() -> None:
    size = Size(400, 300, 4.0, 300)
    assert size.with_density(150).width_px == size.width_px
    assert size.with_density(150).width_mm == pytest.approx(2 * size.width_mm)


def test_fit_takes_the_tighter_side() -> None:
    fitted = fit_into_mm(Size(400, 300, 1.0, 300), 120, 60)
    assert fitted.height_mm == pytest.approx(60, abs=0.1)
    assert fitted.width_mm <= 120


@pytest.mark.parametrize("factor", [0.2, 8.01, float("nan"), float("inf")])
def test_impossible_factors_are_refused_in_words(factor: float) -> None:
    with pytest.raises(SizeError, match=r"outside 0\.25 to 8"):
        Size(400, 300, factor)


def test_jpeg_refuses_more_than_65535_px_a_side() -> None:
    """ITU-T T.81 (1992), B.2.2: lines and samples are 16-bit counts."""
    check_size(Size(65535, 10, 1.0), Delivery(format="jpeg"))
    with pytest.raises(SizeError, match="factor up to 6"):
        check_size(Size(10922, 10, 8.0), Delivery(format="jpeg"))
    check_size(Size(10922, 10, 8.0), Delivery(format="tiff"))


def test_summary_reads_like_a_sentence() -> None:
    assert size_summary(Size(2000, 1500, 4.0, 300), "cm") == (
        "4×, 8000 × 6000 px, 48 MP, 67.7 × 50.8 cm at 300 ppi, sharp from 29 cm"
    )


@pytest.mark.parametrize(
    ("text", "mm"), [("60x40cm", (600, 400)), ("8x10in", (203.2, 254)), ("297 × 420 mm", (297, 420))]
)
def test_print_sizes_are_understood(text: str, mm: tuple[float, float]) -> None:
    assert parse_print_size(text) == pytest.approx(mm)


@pytest.mark.parametrize("text", ["", "60cm", "60x40", "axbcm", "0x10cm", "1.2.3x4cm"])
def test_other_texts_are_no_print_size(text: str) -> None:
    with pytest.raises(SizeError):
        parse_print_size(text)
