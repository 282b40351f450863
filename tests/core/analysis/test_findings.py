"""What each measurement is called, why, and what it suggests."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from wamplex.core.analysis.compression.file_compression import Codec, FileCompression
from wamplex.core.analysis.content.clipping import Clipping
from wamplex.core.analysis.content.content_type import ContentType
from wamplex.core.analysis.degradation.degradation_estimator import DegradationEstimate, Estimate
from wamplex.core.analysis.degradation.earlier_enlargement import EarlierEnlargement
from wamplex.core.analysis.degradation.motion_blur import MotionBlur
from wamplex.core.analysis.degradation.noise_level import NoiseLevel
from wamplex.core.analysis.faces.face import Face
from wamplex.core.analysis.report.condition import Condition
from wamplex.core.analysis.report.finding import Finding
from wamplex.core.analysis.report.findings import describe_condition
from wamplex.core.analysis.suggestion.suggestion import suggest, suggest_trials
from wamplex.core.analysis.suggestion.trial_warnings import warn_of_trial
from wamplex.core.base.window import Window
from wamplex.core.model.upscale_values import Values

PLAIN = Condition(400, 300)


def _read(softness: float, doubt: float, sharpening: float = 0.0) -> DegradationEstimate:
    none = Estimate(0.0, 0.0)
    return DegradationEstimate(
        Estimate(softness, doubt), Estimate(sharpening, doubt), none, none, none, (1.0, 0.0, 0.0)
    )


def row(condition: Condition, key: str) -> Finding:
    """One row of the sheet of a condition in which this has been measured."""
    measured = replace(condition, measured=(key,))  # type: ignore[arg-type]
    return next(finding for finding in describe_condition(measured) if finding.key == key)


@pytest.mark.parametrize(
    ("compression", "value", "amount"),
    [
        (FileCompression(None, "no marks"), "none seen", None),
        (FileCompression(42, "tables"), "JPEG, quality 42", 58),
        (FileCompression(98, "tables"), "JPEG, quality 98", None),
        (FileCompression(70, "pixels", in_file=False), "JPEG, about 70", 30),
        (FileCompression(92, "tables", earlier=40), "JPEG, quality 92", 60),
    ],
)
def test_compression(compression: FileCompression, value: str, amount: float | None) -> None:
    finding = row(replace(PLAIN, compression=compression), "compression")
    assert finding.value == value
    assert (finding.suggestion.amount if finding.suggestion else None) == amount
    assert ("Before, it was saved" in finding.reason) is (compression.earlier is not None)


@pytest.mark.parametrize(
    ("noise", "words", "amount"),
    [
        (NoiseLevel(1.2, 1.0, 0.4, 0.5, 0.5), "1.2 levels", None),
        (NoiseLevel(6.2, 3.0, 5.0, 0.5, 0.5), "6.2 levels, mostly colour", 12),
        (NoiseLevel(6.2, 5.0, 3.0, 0.5, 0.5), "6.2 levels, mostly lightness", 12),
        (NoiseLevel(80.0, 60.0, 50.0, 0.5, 0.5), "80.0 levels, mostly lightness", 100),
    ],
)
def test_noise(noise: NoiseLevel, words: str, amount: float | None) -> None:
    finding = row(replace(PLAIN, noise=noise), "noise")
    assert finding.value == words
    assert (finding.suggestion.amount if finding.suggestion else None) == amount


def test_cleaning_is_never_stacked() -> None:
    """The sheet says that nothing else is to denoise or sharpen, and suggests one trial for both repairs."""
    noisy = replace(
        PLAIN, noise=NoiseLevel(9, 8, 4, 0.5, 0.5), compression=FileCompression(40, "the tables say so"),
        measured=("compression", "noise"),
    )  # fmt: skip
    rows = {finding.key: finding for finding in describe_condition(noisy)}
    assert "Mender removes it" in rows["noise"].reason
    keys = {rows[key].suggestion.upscaler for key in ("noise", "compression")}
    assert keys == {"mender"}
    assert [key for key, _ in suggest_trials(noisy)] == ["mender"]


@pytest.mark.parametrize(
    ("condition", "words"),
    [
        (replace(PLAIN), "Too small to tell"),
        (replace(PLAIN, read=_read(0.1, 0.0)), "As sharp as its pixels allow"),
        (replace(PLAIN, read=_read(0.6, 0.0)), "Soft: at least 0.60 px"),
        (replace(PLAIN, read=_read(1.4, 0.0)), "Very soft"),
        (replace(PLAIN, read=_read(0.0, 0.0, 0.9)), "unsharp mask of 90 %"),
        (replace(PLAIN, movement=MotionBlur(4.0, 45.0)), "Motion blur of about 4.0 px"),
        (replace(PLAIN, movement=MotionBlur(9.0, 45.0)), "Too long to correct automatically"),
    ],
)
def test_softness(condition: Condition, words: str) -> None:
    assert words in row(condition, "blur").reason


def test_an_earlier_enlargement_is_to_be_undone() -> None:
    finding = row(replace(PLAIN, enlarged=EarlierEnlargement(2.04)), "enlarged")
    assert finding.value == "about 2×"
    assert finding.suggestion is not None
    assert (finding.suggestion.act, finding.suggestion.amount) == ("shrink", 2.04)
    assert row(replace(PLAIN, enlarged=EarlierEnlargement(1.2)), "enlarged").suggestion is None
    assert (
        "Every pixel is repeated"
        in row(replace(PLAIN, enlarged=EarlierEnlargement(3, by_repeating=True)), "enlarged").reason
    )
    told = row(replace(PLAIN, enlarged=EarlierEnlargement(1.25, by_loss=True)), "enlarged")
    assert told.value == "about 1.25×"
    assert "loses almost nothing" in told.reason


@pytest.mark.parametrize(
    ("kind", "upscaler"),
    [
        ("photograph", None),
        ("generated", None),
        ("drawing", "burin"),
        ("lettering", "burin"),
        ("pixel art", "nearest"),
    ],
)
def test_the_medium_suggests_an_upscaler(kind: str, upscaler: str | None) -> None:
    finding = row(replace(PLAIN, content_type=ContentType(kind, 0.8, 0.9, 30)), "medium")  # type: ignore[arg-type]
    assert (finding.suggestion.upscaler if finding.suggestion else None) == upscaler


def test_small_faces_are_to_be_watched() -> None:
    face = Face(10, 10, 40, 50, 0.99, ((20, 25), (40, 25)))
    finding = row(replace(PLAIN, faces=(face,)), "faces")
    assert finding.value == "1 found"
    assert "small, watch the eyes" in finding.reason
    assert "none found" in row(PLAIN, "faces").value
    unsure = replace(face, sure=False)
    assert "one of the two detectors found it" in row(replace(PLAIN, faces=(unsure,)), "faces").reason
    assert "found 1 of them" in row(replace(PLAIN, faces=(face, unsure)), "faces").reason
    rows = [finding.key for finding in describe_condition(replace(PLAIN, faces=(unsure,), measured=("faces",)))]
    assert "small faces" not in rows


def test_outlines_of_drawings_are_not_taken_for_sharpening() -> None:
    seen = replace(PLAIN, read=_read(0.0, 0.1, sharpening=0.55))
    assert suggest(seen).values.blur == -25
    drawn = replace(seen, content_type=ContentType("drawing", 0.8, 0.9, 9))
    assert suggest(drawn).values.blur == 0
    much = replace(drawn, read=_read(0.0, 0.1, sharpening=0.9))
    assert suggest(much).values.blur == -42.5


def test_cut_off_tones_are_named() -> None:
    finding = row(replace(PLAIN, clipping=Clipping(0.031, 0.002, 0.5, 0.5)), "clipping")
    assert finding.value == "3.1 % white"
    assert row(PLAIN, "clipping").value == "hardly any"


def test_borders_are_to_be_cropped() -> None:
    finding = row(replace(PLAIN, borders=Window(10, 20, 300, 200)), "borders")
    assert finding.suggestion is not None
    assert finding.suggestion.text == "Crop to 300 × 200 px"
    assert "borders" not in {f.key for f in describe_condition(replace(PLAIN, measured=("borders",)))}


@pytest.mark.parametrize(
    ("width", "density", "print_mm", "factor"),
    [
        (400, 300, 297, 6),
        (1200, 300, 297, 3),
        (2000, 300, 297, 2),
        (4000, 300, 297, None),
        (1500, 150, 254, None),
    ],
)
def test_the_factor_is_the_next_usual_one(width: int, density: float, print_mm: float, factor: float | None) -> None:
    """A4 at 300 ppi is 3508 px long, what every print shop asks for; common practice."""
    rows = describe_condition(Condition(width, width // 2), density_ppi=density, print_mm=print_mm)
    (size,) = (finding for finding in rows if finding.key == "size")
    assert (size.suggestion.amount if size.suggestion else None) == factor


def test_cleanup_follows_from_the_condition() -> None:
    noisy = replace(PLAIN, noise=NoiseLevel(5.0, 4, 3, 0.5, 0.5), compression=FileCompression(90, "tables", earlier=35))
    suggestion = suggest(noisy)
    assert (suggestion.values.noise, suggestion.values.compression) == (10.0, 65.0)
    assert "saved before at about 35" in suggestion.reasons["compression"]
    assert suggest_trials(replace(PLAIN, content_type=ContentType("drawing", 0.8, 0.9, 9)))[0][0] == "burin"


@pytest.mark.parametrize(
    ("codec", "quality", "compression"), [("jpeg", 60, 40.0), ("webp", 75, 26.0), ("webp", 40, 55.0)]
)
def test_webp_is_repaired_as_the_jpeg_that_does_as_much_harm(codec: Codec, quality: int, compression: float) -> None:
    suggestion = suggest(replace(PLAIN, compression=FileCompression(quality, "the file says so", codec=codec)))
    assert (suggestion.upscaler, suggestion.values.compression, suggestion.values.codec) == (
        "mender",
        compression,
        codec,
    )


def test_softness_errs_on_the_low_side_and_leaves_clean_pictures_alone() -> None:
    """Half of the doubt is taken off, and what is then below a fifth of a pixel is left as it is."""
    for softness, doubt, value in ((0.6, 0.1, 27.5), (0.25, 0.12, 0.0), (1.0, 0.0, 50.0), (2.3, 0.0, 100.0)):
        assert suggest(replace(PLAIN, read=_read(softness, doubt))).values.blur == value
    drawing = replace(PLAIN, content_type=ContentType("drawing", 0.8, 0.9, 9))
    for softness, doubt, value in ((0.6, 0.1, 30.0), (0.25, 0.12, 0.0)):  # of drawings the whole is undone
        assert suggest(replace(drawing, read=_read(softness, doubt))).values.blur == value
    assert suggest(replace(PLAIN, read=_read(0.0, 0.0, 0.9))).values.blur == -45.0
    enlarged = replace(PLAIN, read=_read(0.9, 0.0), enlarged=EarlierEnlargement(2.0))
    assert suggest(enlarged).values.blur == 0
    assert row(enlarged, "blur").suggestion is None
    moved = suggest(replace(PLAIN, movement=MotionBlur(6.0, 45.0), read=_read(0.9, 0.0))).values
    assert (moved.blur, moved.motion_blur_px, moved.motion_blur_deg) == (0, 5.4, 45.0)
    assert suggest(replace(PLAIN, movement=MotionBlur(9.0, 45.0))).values.motion_blur_px == 0
    drawn = replace(PLAIN, movement=MotionBlur(4.0, 45.0), content_type=ContentType("drawing", 0.8, 0.9, 9))
    assert suggest(drawn).values.motion_blur_px == 0
    assert row(drawn, "blur").suggestion is None


def test_only_values_that_an_upscaler_heeds_are_suggested_to_it() -> None:
    suggestion = suggest(replace(PLAIN, noise=NoiseLevel(6.0, 5, 3, 0.5, 0.5), read=_read(0.6, 0.0)))
    assert suggestion.values_for("vellum", ("blur",)).model_dump(exclude_defaults=True) == {"blur": 30.0}
    assert suggestion.values_for("mender", ("noise", "blur")).noise == 12.0


@pytest.mark.parametrize(
    ("upscaler", "values", "condition", "words"),
    [
        ("vellum", {}, {"compression": FileCompression(50, "so")}, "compression artifacts"),
        ("vellum", {}, {"noise": NoiseLevel(9.0, 8, 4, 0.5, 0.5)}, "Amplifies noise"),
        ("vellum", {}, {"read": None}, None),
        ("vellum", {"blur": 30}, {"softness_px": 0.6}, None),
        ("vellum", {}, {"softness_px": 0.6}, "blurred, and this trial does not correct it"),
        ("thicket", {}, {"content_type": ContentType("lettering", 0.8, 0.9, 9)}, "texture to lettering"),
        ("mender", {"compression": 50}, {"compression": FileCompression(50, "so")}, None),
    ],
)
def test_a_trial_that_will_likely_fail_says_so(
    upscaler: str, values: dict[str, Any], condition: dict[str, object], words: str | None
) -> None:
    softness = condition.pop("softness_px", None)
    measured = replace(PLAIN, **condition)  # type: ignore[arg-type]
    if softness is not None:
        measured = replace(measured, read=_read(softness, 0.0))  # type: ignore[arg-type]
    trouble = warn_of_trial(
        upscaler,
        "learned",
        Values(**values),
        suggest(measured),
        measured.content_type.kind,
    )
    assert trouble is None if words is None else words in (trouble or "")
