"""Options are read into what the core takes, or refused with the option's own name."""

from __future__ import annotations

from pathlib import Path

import pytest
from typer.testing import CliRunner

from wamplex.cli import app
from wamplex.commands.options import paper_sides, parse_delivery, parse_framing, parse_size, parse_values
from wamplex.core.base.errors import RecipeError, SizeError
from wamplex.core.model.value_table import VALUES
from wamplex.core.trial.registry import find_upscaler


@pytest.mark.parametrize(
    ("name", "sides"),
    [("A3", (297.0, 420.0)), ("b5", (176.0, 250.0)), ("60x40cm", (400.0, 600.0)), ("40 × 60 cm", (400.0, 600.0))],
)
def test_papers_have_their_standard_sizes(name: str, sides: tuple[float, float]) -> None:
    """A and B series: ISO 216."""
    assert paper_sides(name) == sides


def test_an_unknown_paper_is_refused() -> None:
    with pytest.raises(SizeError):
        paper_sides("A99x")


def test_a_crop_is_width_height_left_top() -> None:
    crop = parse_framing("800x600+40+20", 90, True, 1.5, 2.0).crop
    assert crop is not None
    assert (crop.width, crop.height, crop.x, crop.y) == (800, 600, 40, 20)


@pytest.mark.parametrize(
    ("crop", "turn", "straighten", "shrink", "option"),
    [
        ("800,600", 0, 0.0, 1.0, "--crop"),
        (None, 45, 0.0, 1.0, "--turn"),
        (None, 0, 46.0, 1.0, "--straighten"),
        (None, 0, 0.0, 9.0, "--shrink-first"),
    ],
)
def test_a_framing_that_cannot_be_names_its_option(
    crop: str | None, turn: int, straighten: float, shrink: float, option: str
) -> None:
    with pytest.raises(RecipeError, match=option):
        parse_framing(crop, turn, False, straighten, shrink)


def test_the_size_is_given_in_exactly_one_way() -> None:
    assert parse_size(2.0, None, None, 300.0, None).factor == 2.0
    for factor, width in ((2.0, 400), (None, None)):
        with pytest.raises(SizeError, match="exactly one"):
            parse_size(factor, width, None, 300.0, None)


@pytest.mark.parametrize("name", [name for name, info in VALUES.items() if info.control == "slider"])
def test_a_value_out_of_range_is_refused_with_its_flag(name: str) -> None:
    info = VALUES[name]
    for value in (info.minimum - 1, info.maximum + 2):
        with pytest.raises(RecipeError, match=info.flag):
            parse_values(None, {name: value})  # type: ignore[dict-item]


def test_a_value_that_the_upscaler_has_not_is_refused() -> None:
    with pytest.raises(RecipeError, match="Lanczos 3 has no --noise"):
        parse_values(find_upscaler("lanczos"), {"noise": 20.0})


@pytest.mark.parametrize(
    ("name", "kind"), [("a.tif", "tiff"), ("a.TIFF", "tiff"), ("b.jpeg", "jpeg"), ("c.dng", "dng")]
)
def test_the_suffix_says_the_format(name: str, kind: str, tmp_path: Path) -> None:
    delivery = parse_delivery(str(tmp_path / name), None, 16, 92, "source", "safe", 1)
    assert (delivery.format, delivery.suffix, delivery.name_pattern) == (kind, Path(name).suffix, Path(name).stem)


def test_a_suffix_and_a_format_that_differ_are_refused(tmp_path: Path) -> None:
    with pytest.raises(RecipeError, match="--format says png"):
        parse_delivery(str(tmp_path / "a.tif"), "png", 16, 92, "source", "safe", 1)


DIGITS = "9" * 4500


@pytest.mark.parametrize("value", ["nan", "inf", "-inf", "1e400"])
@pytest.mark.parametrize("option", ["--factor", "--ppi", "--straighten", "--margin", "--grain", "--exposure", "--blur"])
def test_numbers_that_are_none_are_refused_in_words(option: str, value: str, photo_file: Path) -> None:
    size = [] if option == "--factor" else ["--factor", "2"]
    result = CliRunner().invoke(app, ["enlarge", str(photo_file), *size, f"{option}={value}"])
    assert (result.exit_code, "not a finite number" in result.output.replace("\n", " ")) == (2, True)
    assert option in result.output


@pytest.mark.parametrize(
    "option",
    [
        ("--crop", "9" * 4500 + "x5+0+0"),
        ("--print", "9" * 4500 + "x3cm"),
        ("--light", "9" * 4500),
        ("--width", "9" * 4500),
    ],
)
def test_endless_numbers_are_refused_in_words(option: tuple[str, str], photo_file: Path) -> None:
    size = [] if option[0] in ("--print", "--width") else ["--factor", "2"]
    result = CliRunner().invoke(app, ["enlarge", str(photo_file), *size, *option])
    assert (result.exit_code, result.exception.__class__) == (2, SystemExit)
