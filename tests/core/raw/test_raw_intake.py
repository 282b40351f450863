"""Raw files of the simulated camera, read through LibRaw and developed."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import rawpy
from tests.cameras import CAMERA, chart, raw_file

from wamplex.core.base.errors import UnreadablePictureError
from wamplex.core.intake.probe import probe
from wamplex.core.intake.read import read_picture, read_small
from wamplex.core.model.development import Development
from wamplex.core.model.recipe import Recipe
from wamplex.core.raw.tone_curve import srgb_encode
from wamplex.core.trial.developed_picture import develop_picture


def test_it_is_recognised_by_its_content(tmp_path: Path) -> None:
    path = raw_file(tmp_path / "named-as.tif", chart())
    found = probe(path)
    assert (found.kind, found.width, found.height, found.depth) == ("raw", 96, 64, 16)


def test_levels_matrix_and_balance_are_those_of_the_camera(tmp_path: Path) -> None:
    raw = read_picture(raw_file(tmp_path / "a.dng", chart())).raw
    assert raw is not None
    assert raw.mosaic is not None
    assert (raw.mosaic.pattern, raw.mosaic.black, raw.mosaic.white) == ((0, 1, 1, 2), (512.0,) * 4, 16383)
    assert raw.gains == pytest.approx(CAMERA.gains, rel=1e-4)
    assert raw.colours.matrices[0][1] == pytest.approx(CAMERA.from_xyz, abs=1e-5)


@pytest.mark.parametrize(("orientation", "turns"), [(1, 0), (3, 2), (6, 3), (8, 1)])
def test_it_stands_upright(tmp_path: Path, orientation: int, turns: int) -> None:
    light = chart()
    upright = read_picture(raw_file(tmp_path / "a.dng", light))
    turned = read_picture(raw_file(tmp_path / "b.dng", light, orientation=orientation))
    assert (probe(tmp_path / "b.dng").width, probe(tmp_path / "b.dng").height) == (
        turned.width,
        turned.height,
    )
    assert np.array_equal(np.rot90(turned.pixels, -turns), upright.pixels)


def test_developed_into_srgb_it_is_what_libraw_makes(tmp_path: Path) -> None:
    """LibRaw 0.22 by itself: its matrices, its balance, its AHD."""
    path = raw_file(tmp_path / "a.dng", 0.7 * chart())
    made = develop_picture(read_picture(path), Recipe(development=Development(space="srgb"))).pixels
    with rawpy.imread(str(path)) as raw:
        theirs = raw.postprocess(
            use_camera_wb=True, no_auto_bright=True, output_bps=16, gamma=(1, 1), adjust_maximum_thr=0.0
        )
    difference = made - srgb_encode(theirs.astype(np.float32) / np.float32(65535))
    assert np.abs(difference).mean() < 0.004


def test_what_was_grey_is_grey_in_every_space(tmp_path: Path) -> None:
    path = raw_file(tmp_path / "a.dng", np.full((40, 60, 3), 0.18))
    picture = read_picture(path)
    for space in ("bt2020", "romm", "srgb"):
        pixels = develop_picture(picture, Recipe(development=Development(space=space))).pixels
        assert np.ptp(pixels.mean(axis=(0, 1))) < 2e-3


def test_the_small_picture_has_its_proportions(tmp_path: Path) -> None:
    small, found = read_small(raw_file(tmp_path / "a.dng", chart(), orientation=6), 48)
    assert small.shape == (48, 32, 3)
    assert found.height == 96


@pytest.mark.parametrize("kept", [200, 3000, 9000])
def test_a_file_cut_short_is_refused_in_words(tmp_path: Path, kept: int) -> None:
    path = raw_file(tmp_path / "a.dng", chart())
    path.write_bytes(path.read_bytes()[:kept])
    with pytest.raises(UnreadablePictureError) as refused:
        read_picture(path)
    assert "a.dng" in str(refused.value)
