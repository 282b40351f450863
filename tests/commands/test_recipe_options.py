"""Recipes, places and colours on the command line."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pikepdf
import pytest
from PIL import Image
from typer.testing import CliRunner, Result

from wamplex.cli import app
from wamplex.core.colour.icc import SRGB, make_profile


def run(*words: str) -> Result:
    return CliRunner().invoke(app, words)


@pytest.fixture
def made(photo_file: Path) -> Path:
    done = run("enlarge", str(photo_file), "--factor", "2", "--upscaler", "mender", "--noise", "37", "--grain", "4")
    assert done.exit_code == 0
    return photo_file.with_name("photo-2x.tif")


def test_a_recipe_is_kept_listed_used_and_forgotten(made: Path, tmp_path: Path) -> None:
    assert "No recipe is stored" in run("recipe").output
    assert "Stored as Foyer" in run("recipe", str(made), "--keep", "Foyer").output
    assert "Foyer" in run("recipe").output
    other = tmp_path / "other.png"
    grey = np.random.default_rng(1).normal(128, 30, (70, 90)).clip(0, 255).astype(np.uint8)
    Image.fromarray(grey).convert("RGB").save(other)
    wanted = ("enlarge", str(other), "--factor", "3", "--recipe", "foyer", "--json")
    fixed = json.loads(run(*wanted).stdout)[0]
    assert (fixed["upscaler"], fixed["values"]["noise"], fixed["width"]) == ("mender", 37, 270)
    anew = json.loads(run(*wanted, "--measure").stdout)[0]
    assert anew["upscaler"] == "mender"
    assert anew["values"]["noise"] != 37
    run("recipe", "--forget", "foyer")
    assert run(*wanted).exit_code == 2


def test_a_file_without_a_recipe_cannot_be_kept(photo_file: Path) -> None:
    done = run("recipe", str(photo_file), "--keep", "x")
    assert done.exit_code == 1
    assert "holds no recipe" in done.output


def test_names_folders_and_pdf(photo_file: Path) -> None:
    words = (
        "--factor",
        "2",
        "--upscaler",
        "bicubic",
        "--format",
        "pdf",
        "--subfolder",
        "prints",
        "--copy-source",
    )
    done = run("enlarge", str(photo_file), *words, "--name", "{name} {print}")
    assert done.exit_code == 0
    folder = photo_file.parent / "prints"
    assert sorted(path.name for path in folder.iterdir()) == ["photo 3x2cm.pdf", "photo.png"]
    with pikepdf.open(folder / "photo 3x2cm.pdf") as pdf:
        assert len(pdf.pages) == 1


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (("--subfolder", "a/b"), "one folder"),
        (("--printer", "none.icc"), "file not found"),
        (("--printer", "screen.icc"), "four inks"),
        (("--intent", "vivid"), "--intent"),
    ],
)
def test_what_cannot_be_is_refused_before_any_work(photo_file: Path, words: tuple[str, str], said: str) -> None:
    screen = photo_file.with_name("screen.icc")
    screen.write_bytes(make_profile(SRGB))
    given = [str(screen) if word == "screen.icc" else word for word in words]
    done = run("enlarge", str(photo_file), "--factor", "2", *given)
    assert done.exit_code == 2
    assert said in done.output.replace("\n", " ")
    assert sorted(path.name for path in photo_file.parent.iterdir()) == ["photo.png", "screen.icc"]
