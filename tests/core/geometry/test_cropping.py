"""Dragging crops, and how close one may stand."""

from __future__ import annotations

import shutil
from dataclasses import replace
from pathlib import Path

import numpy as np
import psutil
import pytest

from wamplex.core.base.window import Window
from wamplex.core.deliver.request.size_advice import UpscalingRange, size_advice, upscaling_range
from wamplex.core.geometry.cropping import (
    drag_crop,
    mirror,
    rotate_quarter_turn,
    set_aspect_ratio,
    straighten,
)
from wamplex.core.geometry.distance import arc_minutes, density_for_mm
from wamplex.core.geometry.framing import Crop, Framing, crop_is_inside, from_framed, to_framed
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.geometry.size import Size, sharp_distance_mm
from wamplex.core.intake.probe import probe
from wamplex.core.model.picture import Picture
from wamplex.core.preview.sheet_preview import sheet_preview
from wamplex.core.trial.framed_picture import frame_picture

GB = 10**9
AMPLE = UpscalingRange(memory_needed=2 * GB, memory_free=8 * GB, disk_free=500 * GB)
CROPPED = Framing(crop=Crop(x=10, y=5, width=40, height=20))


@pytest.fixture
def picture(photo: np.ndarray) -> Picture:
    return Picture(photo[:60, :80].astype(np.float32) / np.float32(255))


def test_turning_and_flipping_keep_what_was_cropped(picture: Picture) -> None:
    kept = frame_picture(picture, CROPPED).pixels
    once = rotate_quarter_turn(CROPPED, 80, 60)
    assert np.array_equal(frame_picture(picture, once).pixels, np.rot90(kept, -1))
    flipped = mirror(once, 80, 60)
    assert np.array_equal(frame_picture(picture, flipped).pixels, np.rot90(kept, -1)[:, ::-1])
    twice = rotate_quarter_turn(flipped, 80, 60)
    assert np.array_equal(frame_picture(picture, twice).pixels, np.rot90(np.rot90(kept, -1)[:, ::-1], -1))


def test_dragging_stops_at_the_edge() -> None:
    moved = drag_crop(CROPPED, 80, 60, "inside", 12, 7)
    assert moved.window(80, 60) == Window(22, 12, 40, 20)
    assert drag_crop(CROPPED, 80, 60, "inside", 500, 0).window(80, 60).right == pytest.approx(80, abs=1)
    assert drag_crop(CROPPED, 80, 60, "right", 5, 0).window(80, 60) == Window(10, 5, 45, 20)
    assert drag_crop(CROPPED, 80, 60, "left", 38, 0).window(80, 60).width >= 8


def test_a_locked_ratio_is_kept() -> None:
    square = set_aspect_ratio(Framing(), 80, 60, 1.0)
    assert square.window(80, 60) == Window(10, 0, 60, 60)
    smaller = drag_crop(square, 80, 60, "bottom-right", -20, -3, ratio=1.0).window(80, 60)
    assert (smaller.width, smaller.height, smaller.x, smaller.y) == (40, 40, 10, 0)


@pytest.mark.parametrize("degrees", [3.0, -20.0, 45.0])
def test_a_crop_shrinks_until_it_fits_the_straightened_picture(degrees: float) -> None:
    whole = Framing(crop=Crop(x=0, y=0, width=80, height=60))
    made = straighten(whole, 80, 60, degrees)
    assert crop_is_inside(made.window(80, 60), 80, 60, degrees)
    assert made.window(80, 60).width > 30


@pytest.mark.parametrize("framing", [CROPPED, Framing(turns=3, flipped=True, straighten_deg=7.5)])
def test_places_lead_there_and_back(framing: Framing) -> None:
    there = to_framed(framing, 80, 60, 0.4, 0.3)
    assert from_framed(framing, 80, 60, *there) == pytest.approx((0.4, 0.3))


def test_a_place_is_where_its_pixel_is(picture: Picture) -> None:
    framing = rotate_quarter_turn(CROPPED, 80, 60)
    x, y = to_framed(framing, 80, 60, 30.5 / 80, 15.5 / 60)
    left = frame_picture(picture, framing).pixels
    assert np.array_equal(left[int(y * 40), int(x * 20)], picture.pixels[15, 30])


def test_density_and_distance_are_the_same_thing_twice() -> None:
    """At one metre one arc minute is 0.291 mm, plane trigonometry: 87.3 ppi."""
    assert density_for_mm(1000) == pytest.approx(25.4 / 0.29089, rel=1e-3)
    assert sharp_distance_mm(density_for_mm(640)) == pytest.approx(640)
    assert arc_minutes(density_for_mm(640), 640) == pytest.approx(1.0)


def test_warnings_name_the_reason_and_a_way_out() -> None:
    assert size_advice(Size(1000, 800, 4.0, 300), None, 500, AMPLE) == ()
    (small,) = size_advice(Size(100, 800, 4.0, 300), None, 500, AMPLE)
    assert "Below 128 px" in small
    (far,) = size_advice(Size(1000, 800, 6.5, 300), None, 500, AMPLE)
    assert "More than 6×" in far
    (low,) = size_advice(Size(1000, 800, 4.0, 80), None, 500, AMPLE)
    assert "stand further back" in low
    (long,) = size_advice(Size(12000, 800, 5.9, 300), None, 500, AMPLE)
    assert "choose 5.46×" in long


def test_warnings_say_what_memory_and_disk_can_hold() -> None:
    size = Size(6000, 4000, 4.0, 300)
    (memory,) = size_advice(size, None, 500, replace(AMPLE, memory_needed=3 * GB, memory_free=2 * GB))
    assert "takes about 3 GB of memory at any factor, and 2 GB are free" in memory
    assert "Sources up to 67 megapixels fit" in memory
    # 24 MP at 4x are 384 MP of six bytes, and deflate takes 0.85 of them: 1.96 GB.
    (disk,) = size_advice(size, None, 500, replace(AMPLE, disk_free=1 * GB))
    assert "takes about 1.96 GB, and 1 GB are free" in disk
    assert "or 2.9×" in disk


def test_room_is_asked_of_the_machine(photo_file: Path) -> None:
    room = upscaling_range(probe(photo_file))
    assert room.disk_free == pytest.approx(shutil.disk_usage(photo_file.parent).free, rel=0.05)
    assert 0 < room.memory_free < psutil.virtual_memory().total


def test_the_sheet_is_shown_to_scale() -> None:
    sheet = Sheet(width_mm=100, height_mm=100, margin_mm=10)
    shown = sheet_preview(np.zeros((40, 80, 3), np.uint8), Size(800, 400, 1.0, 254), sheet, 500)
    assert shown.shape == (500, 500, 3)
    dark = (shown == 0).all(axis=2)
    assert (dark.any(axis=0).sum(), dark.any(axis=1).sum()) == (400, 200)
