"""``wamplex enlarge --with``: further frames of one scene."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from tests.core.frames.bursts import Move, frame, hand_held, photograph, written
from typer.testing import CliRunner, Result

from wamplex.cli import app


def run(*words: str) -> Result:
    return CliRunner().invoke(app, list(words))


@pytest.fixture
def burst(tmp_path: Path) -> list[Path]:
    scene = photograph("coffee", 200)
    return written([frame(scene, there) for there in hand_held(3)] + [frame(photograph("cat", 200), Move())], tmp_path)


def test_frames_are_joined_and_what_does_not_fit_is_said(burst: list[Path]) -> None:
    further = [word for path in burst[1:] for word in ("--with", str(path))]
    (result,) = json.loads(run("enlarge", str(burst[0]), *further, "--factor", "2", "--json").stdout)
    assert result["upscaler"] == "concert"
    assert any("3 frames are joined" in reason for reason in result["reasons"])
    assert any("left out: frame-3.png shows another scene" in reason for reason in result["reasons"])
    assert Path(result["path"]).exists()


def test_requests_that_make_no_sense_are_refused(burst: list[Path]) -> None:
    one, two, _, other = (str(path) for path in burst)
    together: tuple[tuple[tuple[str, ...], str], ...] = (
        ((one, two, "--with", other), "takes one picture"),
        ((one, "--with", two, "--upscaler", "vellum"), "joined by --upscaler concert"),
        ((one, "--with", two, "--recipe", "any"), "Use either --with or --recipe"),
    )
    for words, sentence in together:
        done = run("enlarge", *words, "--factor", "2")
        assert done.exit_code == 2
        assert sentence in done.output
    alone: tuple[tuple[tuple[str, ...], str], ...] = (
        ((one, "--with", one), "Name other frames than it"),
        ((one, "--with", other), "No frame can be joined"),
        ((one, "--upscaler", "concert"), "needs two or more frames"),
    )
    for words, sentence in alone:
        done = run("enlarge", *words, "--factor", "2")
        assert done.exit_code == 1
        assert sentence in done.output


def test_a_print_file_makes_itself_again(burst: list[Path], tmp_path: Path) -> None:
    """Its recipe names the frames; nothing is aligned anew."""
    one, two, three, _ = (str(path) for path in burst)
    folders = tmp_path / "first", tmp_path / "again"
    run("enlarge", one, "--with", two, "--with", three, "--factor", "2", "--format", "png", "--out", str(folders[0]))
    (first,) = folders[0].iterdir()
    words = ("--recipe", str(first), "--factor", "2", "--format", "png", "--out", str(folders[1]))
    (result,) = json.loads(run("enlarge", one, *words, "--json").stdout)
    assert result["upscaler"] == "concert"
    pixels = [np.asarray(Image.open(path)) for folder in folders for path in folder.iterdir()]
    np.testing.assert_array_equal(pixels[0], pixels[1])
