"""The parts that the condition sheet is made of, each by itself."""

from __future__ import annotations

import io
from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image
from skimage import data

from wamplex.core.analysis.content.borders import find_borders
from wamplex.core.analysis.content.spots import Spot, eye_spot, find_spots, transform_spots
from wamplex.core.analysis.content.subject import SubjectAreas, find_areas, mask_overlay
from wamplex.core.analysis.degradation.earlier_enlargement import detect_earlier_enlargement
from wamplex.core.analysis.degradation.edge_blur import estimate_edge_blur
from wamplex.core.analysis.degradation.noise_level import measure_noise
from wamplex.core.analysis.faces import cascade_detector, rotated_faces
from wamplex.core.analysis.faces.detection import find_faces
from wamplex.core.analysis.faces.face import Face
from wamplex.core.analysis.faces.seen_eye import seen_eye
from wamplex.core.analysis.report.condition import (
    Condition,
    known_compression,
    measure_condition,
    measure_whole_condition,
)
from wamplex.core.analysis.report.evidence_crop import HEIGHT_PX, WIDTH_PX, evidence_crop
from wamplex.core.analysis.report.findings import describe_condition
from wamplex.core.analysis.sample import Sample
from wamplex.core.base.errors import Cancelled
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.luma import luma_plane
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.intake.read import read_picture
from wamplex.core.model.picture import Picture


def picture_of(pixels: np.ndarray) -> Picture:
    return Picture(pixels.astype(np.float32) / np.float32(255))


def levels(pixels: np.ndarray) -> np.ndarray:
    return luma_plane(pixels.astype(np.float32))


class TestSample:
    def test_the_middle_begins_on_the_grid_of_blocks(self) -> None:
        sample = Sample(Picture(np.zeros((1500, 2001, 3), np.float32)))
        assert (sample.centre.x % 8, sample.centre.y % 8) == (0, 0)
        assert sample.luma.shape == (1280, 1280)

    def test_small_pictures_are_seen_as_they_are(self) -> None:
        sample = Sample(picture_of(data.astronaut()))
        assert np.array_equal(sample.shown, data.astronaut())
        assert sample.centre == Window(0, 0, 512, 512)
        assert sample.small.shape == (512, 512, 3)

    def test_large_pictures_are_seen_shrunk(self) -> None:
        large = np.tile(data.astronaut(), (3, 5, 1))
        sample = Sample(picture_of(large))
        assert max(sample.shown.shape) == 1280
        assert sample.shown.mean() == pytest.approx(large.mean(), abs=0.7)

    def test_transparency_is_white_paper(self) -> None:
        sample = Sample(Picture(np.zeros((20, 30, 3), np.float32), np.zeros((20, 30), np.float32)))
        assert (sample.shown == 255).all()

    def test_grey_is_shown_as_grey(self) -> None:
        shown = Sample(picture_of(data.camera()[..., None])).shown
        assert np.array_equal(shown[..., 0], data.camera())
        assert np.array_equal(shown[..., 0], shown[..., 2])


class TestNoise:
    @pytest.mark.parametrize("sigma", [4, 12])
    def test_colour_noise_is_told_from_noise_of_the_lightness(self, sigma: int) -> None:
        clean, random = data.chelsea().astype(np.float64), np.random.default_rng(6)
        grey = clean + random.normal(0, sigma, clean.shape[:2])[..., None]
        shift = random.normal(0, sigma, clean.shape[:2])
        # Red up and blue down, so that the luma of BT.601 stays.
        coloured = clean + np.stack([shift, np.zeros_like(shift), -0.299 / 0.114 * shift], axis=2)
        one, other = (measure_noise(picture_of(np.clip(np.rint(p), 0, 255))) for p in (grey, coloured))
        assert one.luma > 2 * one.colour
        assert other.colour > 2 * other.luma

    def test_the_smoothest_place_is_shown(self) -> None:
        busy = np.random.default_rng(3).integers(60, 190, (300, 400, 3)).astype(np.uint8)
        busy[120:260, 40:180] = 128
        noise = measure_noise(picture_of(busy))
        assert 40 < noise.x * 400 < 180
        assert 120 < noise.y * 300 < 260


class TestCompression:
    def test_a_file_saved_otherwise_since_shows_in_the_pixels(self, tmp_path: Path) -> None:
        file = io.BytesIO()
        Image.fromarray(data.coffee()).save(file, "JPEG", quality=50)
        path = tmp_path / "again.png"
        Image.open(file).save(path)
        compression = known_compression(Sample(read_picture(path)))
        assert (compression.quality, compression.in_file) == (50, False)
        assert "saved in another format later" in compression.reason

    def test_a_file_saved_twice_is_judged_by_the_worse(self, tmp_path: Path) -> None:
        file, path = io.BytesIO(), tmp_path / "twice.jpg"
        Image.fromarray(data.astronaut()).save(file, "JPEG", quality=40)
        Image.open(file).save(path, quality=90)
        compression = known_compression(Sample(read_picture(path)))
        assert (compression.quality, compression.earlier, compression.worst, compression.in_file) == (90, 40, 40, True)

    @pytest.mark.parametrize(("first", "second"), [(35, 95), (50, 92), (35, 90)])
    def test_a_cropped_picture_saved_again_too(self, first: int, second: int, tmp_path: Path) -> None:
        file, path = io.BytesIO(), tmp_path / "cropped.jpg"
        Image.fromarray(data.astronaut()).save(file, "JPEG", quality=first)
        Image.open(file).crop((5, 3, 501, 499)).save(path, quality=second)
        compression = known_compression(Sample(read_picture(path)))
        assert compression.earlier == pytest.approx(first, abs=8)

    @pytest.mark.parametrize("name", ["astronaut", "coffee", "rocket"])
    @pytest.mark.parametrize("quality", [50, 80, 92])
    def test_a_file_saved_once_is_not_called_saved_twice(self, name: str, quality: int, tmp_path: Path) -> None:
        path = tmp_path / "once.jpg"
        Image.fromarray(getattr(data, name)()).save(path, quality=quality)
        assert known_compression(Sample(read_picture(path))).earlier is None

    def test_without_a_file_and_without_marks_nothing_is_said(self) -> None:
        compression = known_compression(Sample(picture_of(data.astronaut())))
        assert (compression.quality, compression.worst) == (None, None)


class TestEnlargement:
    @pytest.mark.parametrize("factor", [1.25, 1.5, 2, 2.5, 3, 4])
    def test_repeated_pixels_are_recognised(self, factor: float) -> None:
        larger = cv2.resize(data.coffee(), None, fx=factor, fy=factor, interpolation=cv2.INTER_NEAREST)
        enlargement = detect_earlier_enlargement(levels(larger))
        assert enlargement is not None
        assert enlargement.by_repeating
        assert enlargement.factor == pytest.approx(factor, rel=0.02)

    def test_flat_places_of_a_drawing_are_not_repeated_pixels(self) -> None:
        drawing = np.full((400, 400), 230, np.float32)
        for x, y, side in ((20, 30, 90), (150, 60, 31), (60, 180, 200), (301, 11, 70)):
            drawing[y : y + side, x : x + side] = x
        drawing[200:300, 280:380] = np.random.default_rng(4).integers(0, 255, (100, 100))
        assert detect_earlier_enlargement(drawing) is None

    @pytest.mark.parametrize("factor", [1.5, 2.5, 4.0])
    def test_straight_lines_between_pixels_tell_which_of_two_factors_is_meant(self, factor: float) -> None:
        """Factors f and f / (f - 1) repeat alike (Gallagher 2005); bilinear blur hides which survives."""
        larger = cv2.resize(data.coffee(), None, fx=factor, fy=factor, interpolation=cv2.INTER_LINEAR)
        enlargement = detect_earlier_enlargement(levels(larger))
        assert enlargement is not None
        assert enlargement.factor == pytest.approx(factor, rel=0.05)

    def test_an_enlarged_grid_of_compression_tells_the_factor(self) -> None:
        file = io.BytesIO()
        Image.fromarray(data.coffee()).save(file, "JPEG", quality=40)
        larger = cv2.resize(np.asarray(Image.open(file)), None, fx=2, fy=2, interpolation=cv2.INTER_LINEAR)
        enlargement = detect_earlier_enlargement(levels(larger))
        assert enlargement is not None
        assert enlargement.factor == pytest.approx(2.0, rel=0.02)

    @pytest.mark.parametrize("factor", [1.5, 2.0])
    def test_a_drawing_of_few_outlines_is_told_by_what_shrinking_loses(self, factor: float) -> None:
        drawing = np.full((960, 960), 240, np.uint8)
        for x, y, radius in ((300, 320, 210), (610, 500, 90), (420, 700, 160), (700, 180, 60)):
            cv2.circle(drawing, (x, y), radius, (x + y) % 200, -1, cv2.LINE_AA)
            cv2.circle(drawing, (x, y), radius, 0, 10, cv2.LINE_AA)
        small = cv2.resize(drawing, (round(480 / factor),) * 2, interpolation=cv2.INTER_AREA)
        larger = cv2.resize(small, (480, 480), interpolation=cv2.INTER_CUBIC).astype(np.float32)
        enlargement = detect_earlier_enlargement(larger, drawn=True)
        assert enlargement is not None
        assert enlargement.factor == pytest.approx(factor, rel=0.01)
        plain = cv2.resize(drawing, (480, 480), interpolation=cv2.INTER_AREA).astype(np.float32)
        for soft in (plain, cv2.GaussianBlur(plain, (0, 0), 0.6), cv2.GaussianBlur(plain, (0, 0), 1.2)):
            assert detect_earlier_enlargement(soft, drawn=True) is None

    @pytest.mark.parametrize("factor", [1.25, 1.5, 2.0, 2.7])
    @pytest.mark.parametrize("kernel", ["BILINEAR", "BICUBIC", "LANCZOS"])
    def test_a_small_picture_that_was_cropped_since(self, factor: float, kernel: str) -> None:
        """Pillow's kernels; a part of scikit-image's coffee, too small for a rhythm to show."""
        small = Image.fromarray(data.coffee()).resize((150, 100), Image.Resampling.BOX)
        size = (round(150 * factor), round(100 * factor))
        larger = levels(np.asarray(small.resize(size, Image.Resampling[kernel])))[2:-3, 5:-4]
        enlargement = detect_earlier_enlargement(larger)
        assert enlargement is not None
        assert enlargement.by_loss
        assert enlargement.factor == pytest.approx(factor, rel=0.01)

    def test_a_small_picture_as_it_is(self) -> None:
        plain = cv2.resize(data.coffee(), (150, 100), interpolation=cv2.INTER_AREA)
        for px in (0.1, 0.7, 1.3, 2.0):
            assert detect_earlier_enlargement(levels(cv2.GaussianBlur(plain, (0, 0), px))) is None

    def test_flat_pictures_are_not_called_enlarged(self) -> None:
        for drawn in (False, True):
            assert detect_earlier_enlargement(np.full((300, 300), 90, np.float32), drawn=drawn) is None

    def test_compression_is_not_taken_for_enlargement(self) -> None:
        for quality in (30, 60, 85):
            file = io.BytesIO()
            Image.fromarray(data.astronaut()).save(file, "JPEG", quality=quality)
            assert detect_earlier_enlargement(levels(np.asarray(Image.open(file)))) is None


class TestSoftness:
    def test_sharp_edges_are_sharp(self) -> None:
        board = (np.indices((256, 256)) // 32).sum(axis=0) % 2 * 180.0 + 40
        edges = estimate_edge_blur(board.astype(np.float32))
        assert edges is not None
        assert edges.blur_px < 0.9  # from there on the sheet calls it soft

    def test_noise_is_not_taken_for_edges(self) -> None:
        random = np.random.default_rng(2)
        blurred = cv2.GaussianBlur(data.coffee(), (0, 0), 2.0)
        noisy = blurred + random.normal(0, 3, blurred.shape)
        clean, edges = estimate_edge_blur(levels(blurred)), estimate_edge_blur(levels(noisy), 3.0)
        assert clean is not None
        assert edges is not None
        assert edges.blur_px == pytest.approx(clean.blur_px, rel=0.25)

    def test_nothing_is_said_without_edges(self) -> None:
        assert estimate_edge_blur(np.full((200, 200), 128, np.float32)) is None


class TestFaces:
    def test_places_are_those_of_the_picture_however_large(self) -> None:
        larger = cv2.resize(data.astronaut(), None, fx=3.5, fy=3.5, interpolation=cv2.INTER_CUBIC)
        (one,), (other,) = find_faces(data.astronaut()), find_faces(larger)
        assert np.divide((other.x, other.y, other.width), 3.5) == pytest.approx((one.x, one.y, one.width), abs=8)

    def test_several_faces_come_largest_first(self) -> None:
        half = cv2.resize(data.astronaut(), None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
        both = np.zeros((512, 768, 3), np.uint8)
        both[:256, 512:], both[:, :512] = half, data.astronaut()
        first, second = find_faces(both)
        assert first.width > 1.5 * second.width
        assert first.x < 512 < second.x

    def test_looking_can_be_stopped(self) -> None:
        progress = Progress()
        progress.cancel()
        with pytest.raises(Cancelled):
            find_faces(data.astronaut(), progress)

    def test_the_eye_nearer_to_the_middle_is_watched(self) -> None:
        face = Face(10, 10, 40, 50, 0.99, ((20.0, 25.0), (40.0, 24.0)))
        spot = eye_spot(face, Picture(np.zeros((50, 100, 3), np.float32)))
        assert (spot.x, spot.y, spot.kind) == (0.4, 0.48, "eye")
        assert face.scaled(2).eyes == ((40, 50), (80, 48))

    @pytest.mark.parametrize("covered", [0, 1])
    def test_an_eye_under_hair_is_not_watched(self, covered: int) -> None:
        """The astronaut with a piece of her own hair over one eye."""
        pixels = data.astronaut().copy()
        (face,) = find_faces(pixels)
        x, y = (round(n) for n in face.eyes[covered])
        pixels[y - 14 : y + 14, x - 14 : x + 14] = pixels[40:68, 175:203]
        assert seen_eye(face, picture_of(pixels)) == face.eyes[1 - covered]

    def test_other_spots_keep_away_from_the_eye(self) -> None:
        picture = picture_of(data.astronaut())
        spots = find_spots(picture, find_faces(data.astronaut()))
        assert spots[0].kind == "eye"
        apart = [np.hypot(spot.x - spots[0].x, spot.y - spots[0].y) for spot in spots[1:]]
        assert min(apart) > 0.1


class TestAreas:
    def test_a_face_belongs_to_the_subject(self) -> None:
        (face,) = find_faces(data.astronaut())
        areas = find_areas(data.astronaut(), (face,), 512)
        assert areas.subject is not None
        scale = areas.subject.shape[1] / 512
        middle = (round((face.x + face.width / 2) * scale), round((face.y + face.height / 2) * scale))
        assert areas.subject[middle[1], middle[0]] > 0.9

    def test_nothing_stands_out_of_an_even_surface(self) -> None:
        assert find_areas(np.full((200, 300, 3), 127, np.uint8)).subject is None

    def test_a_patch_that_stands_out_is_the_subject(self) -> None:
        patch = np.full((200, 300, 3), 127, np.uint8)
        patch[80:120, 120:180] = (220, 40, 40)
        assert find_areas(patch).subject_fraction == pytest.approx(40 * 60 / (200 * 300), rel=0.2)

    def test_a_picture_is_always_judged_alike(self) -> None:
        one, other = (find_areas(data.coffee()) for _ in range(2))
        assert one.subject is not None
        assert other.subject is not None
        assert np.array_equal(one.subject, other.subject)

    def test_the_veil_lies_where_the_mask_does_not(self) -> None:
        mask = np.array([[0.0, 0.5, 1.0, 1.7]], np.float32)
        assert mask_overlay(mask).tolist() == [[200, 100, 0, 0]]


class TestBorders:
    @pytest.mark.parametrize("colour", [0, 128, 255])
    @pytest.mark.parametrize("side", ["left", "top", "right", "bottom"])
    def test_a_border_along_a_single_edge(self, colour: int, side: str) -> None:
        pixels = data.coffee().copy()
        pixels[tuple(_part(side))] = colour
        expected = {
            "left": Window(12, 0, 588, 400),
            "right": Window(0, 0, 588, 400),
            "top": Window(0, 12, 600, 388),
            "bottom": Window(0, 0, 600, 388),
        }[side]
        assert find_borders(pixels / np.float32(255)) == expected

    def test_a_plain_ground_is_not_a_border(self) -> None:
        page = np.ones((300, 300, 3), np.float32)
        page[140:160, 140:160] = 0
        assert find_borders(page) is None
        assert find_borders(np.ones((30, 30, 1), np.float32)) is None

    def test_a_line_of_two_pixels_is_let_be(self) -> None:
        pixels = data.coffee() / np.float32(255)
        pixels[:2] = 0
        assert find_borders(pixels) is None


def _part(side: str) -> tuple[slice, slice]:
    return {
        "left": (slice(None), slice(0, 12)),
        "right": (slice(None), slice(-12, None)),
        "top": (slice(0, 12), slice(None)),
        "bottom": (slice(-12, None), slice(None)),
    }[side]


_ROWS = ("compression", "noise", "blur", "enlarged", "clipping", "medium", "faces", "subject", "borders")


@pytest.fixture(scope="module")
def assessed() -> tuple[Sample, Condition]:
    """The astronaut in a white frame, measured."""
    framed = np.pad(data.astronaut(), ((20, 20), (30, 30), (0, 0)), constant_values=255)
    return Sample(picture_of(framed)), measure_whole_condition(picture_of(framed))


class TestCutouts:
    @pytest.mark.parametrize("key", [*_ROWS, "size"])
    def test_every_row_shows_something(self, key: str, assessed: tuple[Sample, Condition]) -> None:
        shown = evidence_crop(*assessed, key)  # type: ignore[arg-type]
        assert shown is not None
        assert shown.shape == (HEIGHT_PX, WIDTH_PX, 3)
        assert shown.std() > 4

    def test_the_face_is_the_one_in_the_picture(self, assessed: tuple[Sample, Condition]) -> None:
        sample, condition = assessed
        face, shown = condition.faces[0], evidence_crop(sample, condition, "faces")
        x, y = round(face.x + face.width / 2), round(face.y + face.height / 2)
        around = sample.shown[y - 20 : y + 20, x - 20 : x + 20]
        assert shown is not None
        assert np.abs(shown[16:32, 22:42].mean(axis=(0, 1)) - around.mean(axis=(0, 1))).max() < 30

    def test_what_is_not_there_is_not_shown(self) -> None:
        sample = Sample(picture_of(data.coffee()))
        plain = Condition(600, 400)
        assert evidence_crop(sample, plain, "faces") is None
        assert evidence_crop(sample, plain, "borders") is None
        assert evidence_crop(sample, plain, "clipping") is None


class TestMovedSpots:
    SPOTS = (Spot(0.25, 0.5, "detail", "Detail"), Spot(0.9, 0.9, "own", "Own spot"))

    def test_the_same_framing_changes_nothing(self) -> None:
        assert transform_spots(self.SPOTS, Framing(), Framing(), 80, 60) is self.SPOTS

    def test_what_is_cut_off_is_left_out(self) -> None:
        after = Framing(crop=Crop(x=0, y=0, width=40, height=60))
        (only,) = transform_spots(self.SPOTS, Framing(), after, 80, 60)
        assert (only.x, only.y, only.name) == (0.5, 0.5, "Detail")

    @pytest.mark.parametrize("turns", [1, 2, 3])
    def test_turning_there_and_back(self, turns: int) -> None:
        after = Framing.model_validate({"turns": turns})
        there = transform_spots(self.SPOTS, Framing(), after, 80, 60)
        back = transform_spots(there, after, Framing(), 80, 60)
        assert [(s.x, s.y) for s in back] == [pytest.approx((s.x, s.y)) for s in self.SPOTS]


def test_measuring_can_be_stopped_between_rows() -> None:
    progress = Progress()
    rows = measure_condition(picture_of(data.coffee()), progress)
    seen = [next(rows).measured[-1] for _ in range(5)]
    assert seen == ["made by", "sensor", "compression", "palette", "read"]
    progress.cancel()
    with pytest.raises(Cancelled):
        next(rows)


def test_progress_tells_what_is_measured() -> None:
    told: list[tuple[float, str]] = []
    measure_whole_condition(picture_of(data.coffee()[:100, :100]), Progress(lambda f, w: told.append((f, w))))
    assert [f for f, _ in told] == sorted(f for f, _ in told)
    assert told[-1] == (1.0, "measured")
    assert "measuring: noise" in [w for _, w in told]


def test_a_face_on_a_tilted_head_stays_unsure(monkeypatch: pytest.MonkeyPatch) -> None:
    unsure = Face(40, 40, 20, 20, 0.9, ((45.0, 48.0), (55.0, 48.0)), sure=False)
    finds = iter([(), (unsure,), (), (), ()])
    monkeypatch.setattr(rotated_faces, "find_faces", lambda *_pixels, **_how: next(finds))
    (face,) = rotated_faces.find_turned_faces(np.zeros((100, 100, 3), np.uint8))
    assert not face.sure


def test_strips_find_what_the_whole_picture_finds() -> None:
    for height in (97, 139, 140, 267):
        level = np.random.default_rng(height).integers(0, 255, (height, 60, 3), np.uint8)
        shifts, verdicts = cascade_detector._network(1).run(None, {"cuts": cascade_detector._tensor(level)[None]})
        by_strips = cascade_detector._slid_over(level)
        np.testing.assert_allclose(by_strips[0], shifts[0], atol=1e-5)
        np.testing.assert_allclose(by_strips[1], verdicts[0, 1], atol=1e-5)


def test_areas_are_kept_to_a_level() -> None:
    sharp = np.random.default_rng(1).random((90, 160)).astype(np.float32)
    areas = SubjectAreas.of(sharp, None)
    assert np.abs(areas.sharp - sharp).max() <= 0.5 / 255 + 1e-6
    assert areas.subject is None
    assert SubjectAreas.of(sharp, sharp).subject_fraction == pytest.approx(float(sharp.mean()), abs=1e-3)


@pytest.mark.parametrize("shape", [(1, 1), (1, 40_000), (40_000, 1), (2, 9000), (9000, 3), (17, 20_000)])
def test_strips_are_measured_too(shape: tuple[int, int]) -> None:
    pixels = np.random.default_rng(1).random((*shape, 3), np.float32)
    condition = measure_whole_condition(Picture(pixels))
    assert (condition.height, condition.width) == shape
    assert len(describe_condition(condition)) >= 8
