"""What is measured of a picture, against what was done to it."""

from __future__ import annotations

import io
from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image, ImageDraw
from skimage import data

from wamplex.core.analysis.compression.double_jpeg import detect_earlier_quality
from wamplex.core.analysis.compression.jpeg_blocks import estimate_compression
from wamplex.core.analysis.content.borders import find_borders
from wamplex.core.analysis.content.clipping import measure_clipping
from wamplex.core.analysis.content.content_type import classify_content
from wamplex.core.analysis.content.subject import find_areas
from wamplex.core.analysis.degradation.earlier_enlargement import detect_earlier_enlargement
from wamplex.core.analysis.degradation.edge_blur import estimate_edge_blur
from wamplex.core.analysis.degradation.motion_blur import estimate_motion_blur
from wamplex.core.analysis.faces.detection import find_faces
from wamplex.core.analysis.report.condition import measure_condition, measure_whole_condition
from wamplex.core.analysis.report.evidence_crop import evidence_crop
from wamplex.core.analysis.report.findings import describe_condition
from wamplex.core.analysis.sample import Sample
from wamplex.core.base.window import Window
from wamplex.core.colour.luma import luma_plane
from wamplex.core.intake.read import read_picture
from wamplex.core.model.picture import Picture


def levels(pixels: np.ndarray) -> np.ndarray:
    return luma_plane(pixels.astype(np.float32))


def saved(pixels: np.ndarray, quality: int) -> np.ndarray:
    """Through Pillow, that is the Independent JPEG Group's library."""
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "JPEG", quality=quality)
    return np.asarray(Image.open(file))


@pytest.mark.parametrize("quality", [20, 40, 60, 75, 90, 95])
@pytest.mark.parametrize("name", ["astronaut", "coffee", "rocket"])
def test_quality_is_found_in_the_pixels_alone(quality: int, name: str) -> None:
    found = estimate_compression(levels(saved(getattr(data, name)(), quality)))
    assert found is not None
    assert abs(found.quality - quality) <= 8


@pytest.mark.parametrize("name", ["astronaut", "coffee", "chelsea", "rocket"])
def test_clean_pictures_are_not_called_compressed(name: str) -> None:
    assert estimate_compression(levels(getattr(data, name)())) is None


def test_a_crop_moves_the_grid() -> None:
    found = estimate_compression(levels(saved(data.astronaut(), 50)[3:, 5:]))
    assert found is not None
    assert (found.quality, found.grid_x, found.grid_y) == (50, 3, 5)


@pytest.mark.parametrize(("first", "second"), [(40, 90), (60, 85), (75, 92)])
def test_a_second_save_does_not_hide_the_first(first: int, second: int) -> None:
    twice = saved(saved(data.astronaut(), first), second)
    assert detect_earlier_quality(levels(twice), second) == pytest.approx(first, abs=2)
    assert detect_earlier_quality(levels(saved(data.astronaut(), second)), second) is None


# OpenCV's sampled filter of 0.5 px has a standard deviation of 0.46.
@pytest.mark.parametrize(("blur_px", "spread_px"), [(0.5, 0.46), (1, 1), (1.5, 1.5), (2, 2), (3, 3)])
@pytest.mark.parametrize("name", ["chelsea", "coffee", "astronaut", "rocket"])
def test_blur_is_measured_in_pixels(blur_px: float, spread_px: float, name: str) -> None:
    own = estimate_edge_blur(levels(getattr(data, name)()))
    found = estimate_edge_blur(levels(cv2.GaussianBlur(getattr(data, name)(), (0, 0), blur_px)))
    assert own is not None
    assert found is not None
    # Blurs add up as their squares do.
    assert found.blur_px == pytest.approx(np.hypot(spread_px, own.blur_px), rel=0.25)


@pytest.mark.parametrize("name", ["chelsea", "coffee", "astronaut", "rocket"])
def test_blur_all_round_is_no_movement(name: str) -> None:
    assert estimate_motion_blur(levels(getattr(data, name)())) is None
    assert estimate_motion_blur(levels(cv2.GaussianBlur(getattr(data, name)(), (0, 0), 1.5))) is None


@pytest.mark.parametrize("degrees", [0, 45, 90])
def test_movement_has_a_length_and_a_direction(degrees: int) -> None:
    steps = np.arange(-6, 7)
    kernel = np.zeros((13, 13), np.float32)
    turn = np.radians(degrees)
    rows = np.round(6 - steps * np.sin(turn)).astype(int)
    kernel[rows, np.round(6 + steps * np.cos(turn)).astype(int)] = 1
    found = estimate_motion_blur(levels(cv2.filter2D(data.astronaut(), -1, kernel / kernel.sum())))
    assert found is not None
    assert abs((found.deg - degrees + 90) % 180 - 90) <= 10
    # Thirteen pixels in a row or along the diagonal; long movements are found too short, not too long.
    length = 13 * (2**0.5 if degrees == 45 else 1)
    assert 0.4 * length < found.px < 1.15 * length


@pytest.mark.parametrize("factor", [1.5, 2.0, 2.5, 3.0, 4.0])
@pytest.mark.parametrize("name", ["astronaut", "coffee", "camera"])
def test_an_earlier_enlargement_is_found(factor: float, name: str) -> None:
    picture = getattr(data, name)()
    larger = cv2.resize(picture, None, fx=factor, fy=factor, interpolation=cv2.INTER_CUBIC)
    found = detect_earlier_enlargement(levels(larger.reshape(*larger.shape[:2], -1)))
    assert found is not None
    assert found.factor == pytest.approx(factor, rel=0.2)
    assert detect_earlier_enlargement(levels(picture.reshape(*picture.shape[:2], -1))) is None


def test_faces_are_found_where_they_are() -> None:
    """The astronaut of scikit-image; the place of her face as read off the picture."""
    (face,) = find_faces(data.astronaut())
    assert (face.x + face.width / 2, face.y + face.height / 2) == pytest.approx((222, 115), abs=12)
    assert np.ravel(face.eyes) == pytest.approx([205, 101, 247, 104], abs=6)
    assert face.sure
    assert find_faces(np.ascontiguousarray(data.coffee())) == ()


def test_a_face_that_one_finder_sees_alone_is_unsure() -> None:
    """The cascade knows upright faces only, the other one also those that hang upside down."""
    (face,) = find_faces(np.ascontiguousarray(data.astronaut()[::-1]))
    assert (face.x + face.width / 2, face.y + face.height / 2) == pytest.approx((222, 511 - 115), abs=12)
    assert not face.sure
    assert not face.selected


def test_small_faces_are_found_and_others_are_not() -> None:
    """200 cut-outs of 25 pixels from Labeled Faces in the Wild (Huang et al. 2007), as in scikit-image."""
    cuts = np.rint(data.lfw_subset() * 255).astype(np.uint8)
    counts = [
        len(find_faces(cv2.cvtColor(cv2.copyMakeBorder(c, 12, 12, 12, 12, cv2.BORDER_REPLICATE), 8))) for c in cuts
    ]
    assert sum(n > 0 for n in counts[:100]) >= 95
    assert sum(n > 0 for n in counts[100:]) <= 1


def test_media_are_told_apart() -> None:
    page = Image.new("RGB", (400, 300), "white")
    words = "\n".join(["Hollowmere Puppet Theatre, forty years"] * 10)
    ImageDraw.Draw(page).text((8, 4), words, fill="black", font_size=24)
    drawing = Image.new("RGB", (400, 400), (240, 220, 180))
    ImageDraw.Draw(drawing).ellipse((60, 60, 300, 300), fill=(180, 40, 40), outline=(20, 20, 20), width=6)
    sprite = np.random.default_rng(2).integers(0, 4, (24, 24)).repeat(8, 0).repeat(8, 1).astype(np.uint8) * 60
    assert classify_content(np.asarray(page), 0.0).kind == "lettering"
    assert classify_content(np.asarray(drawing), 0.0).kind == "drawing"
    assert classify_content(np.dstack([sprite] * 3), 0.0, repeated_pixels=True).kind == "pixel art"
    for name in ("astronaut", "coffee", "chelsea", "rocket"):
        assert classify_content(getattr(data, name)(), 1.3).kind == "photograph"


@pytest.mark.parametrize("dither", [Image.Dither.FLOYDSTEINBERG, Image.Dither.NONE])
def test_a_small_photograph_in_few_greys_is_no_pixel_art(dither: Image.Dither) -> None:
    small = Image.fromarray(data.coffee()).convert("L").resize((150, 100)).convert("RGB")
    greys = small.quantize(4, palette=small.quantize(4), dither=dither)
    assert classify_content(np.asarray(greys.convert("RGB")), 0.0).kind != "pixel art"


def test_dots_of_a_palette_are_no_pixel_art() -> None:
    small = Image.fromarray(data.coffee()).resize((150, 100))
    dots = small.quantize(16, palette=small.quantize(16), dither=Image.Dither.FLOYDSTEINBERG)
    assert classify_content(np.asarray(dots.convert("RGB")), 0.0).kind != "pixel art"


def test_a_small_sprite_of_whole_pixels_is_pixel_art() -> None:
    """A face of flat colours with an outline of one pixel."""
    sprite = Image.new("RGB", (32, 32), (90, 160, 220))
    draw = ImageDraw.Draw(sprite)
    draw.ellipse((4, 4, 27, 27), fill=(240, 200, 60), outline=(40, 20, 20))
    draw.rectangle((10, 12, 12, 14), fill=(40, 20, 20))
    draw.rectangle((19, 12, 21, 14), fill=(40, 20, 20))
    draw.arc((10, 12, 21, 23), 20, 160, fill=(200, 60, 60))
    assert classify_content(np.asarray(sprite), 0.0).kind == "pixel art"


def test_borders_are_found_to_the_pixel() -> None:
    framed = np.pad(data.coffee() / np.float32(255), ((20, 30), (10, 0), (0, 0)), constant_values=1.0)
    assert find_borders(framed) == Window(10, 20, 600, 400)
    assert find_borders(data.coffee() / np.float32(255)) is None


def test_cut_off_tones_are_counted() -> None:
    picture = np.full((100, 100, 3), 128, np.uint8)
    picture[:30], picture[90:] = 255, 0
    found = measure_clipping(picture)
    assert (found.white, found.black) == (0.3, 0.1)
    assert found.y < 0.3


def test_what_is_sharp_and_what_is_the_subject() -> None:
    half = data.coffee().copy()
    half[:, :300] = cv2.GaussianBlur(half, (0, 0), 4)[:, :300]
    sharp = find_areas(half).sharp
    middle = sharp.shape[1] // 2
    assert sharp[:, middle + 10 :].mean() > 2 * sharp[:, : middle - 10].mean()
    cup = find_areas(data.coffee()).subject
    assert cup is not None
    height, width = cup.shape
    assert cup[int(0.55 * height), int(0.53 * width)] > 0.5
    assert max(cup[3, 3], cup[-3, -3], cup[3, -3]) < 0.1


def test_the_sheet_fills_row_by_row_and_gives_reasons(tmp_path: Path) -> None:
    path = tmp_path / "old.jpg"
    Image.fromarray(data.astronaut()).save(path, quality=40)
    picture = read_picture(path)
    counts = [len(describe_condition(c)) for c in measure_condition(picture)]
    assert counts == sorted(counts)
    rows = {row.key: row for row in describe_condition(measure_whole_condition(picture))}
    assert rows["compression"].value == "JPEG, quality 40"
    assert rows["compression"].suggestion is not None
    assert rows["compression"].suggestion.amount == 60
    assert rows["faces"].value == "1 found"
    assert all(row.reason for row in rows.values())


def test_nothing_is_enlarged_that_is_large_enough() -> None:
    condition = measure_whole_condition(Picture(np.zeros((60, 80, 3), np.float32)))
    (size,) = (row for row in describe_condition(condition, density_ppi=80, print_mm=25.4) if row.key == "size")
    assert size.suggestion is None
    assert "Large enough" in size.reason


@pytest.mark.parametrize("shape", [(1, 1, 3), (1, 40, 1), (7, 5, 3), (97, 3, 3), (300, 310, 3), (2500, 1, 1)])
@pytest.mark.parametrize("flat", [True, False])
@pytest.mark.filterwarnings("error")
def test_any_picture_can_be_assessed(shape: tuple[int, int, int], flat: bool) -> None:
    random = np.random.default_rng(1)
    pixels = np.full(shape, 0.5) if flat else random.random(shape)
    alpha = random.random(shape[:2]).astype(np.float32) if shape[2] == 3 else None
    picture = Picture(pixels.astype(np.float32), alpha)
    sample = Sample(picture)
    for condition in measure_condition(picture):
        shown = evidence_crop(sample, condition, condition.measured[-1])
        assert shown is None or shown.shape == (48, 64, 3)
    assert all(row.reason for row in describe_condition(condition))
