"""The same picture and recipe give the same file, from the window, the command line, a folder or another program."""

from __future__ import annotations

import hashlib
import json
import shutil
from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot
from tests.app.watching import WAIT_MS
from typer.testing import CliRunner

from wamplex.app.tray.decision_transfer import DecisionTransfer
from wamplex.app.window.main_window import MainWindow
from wamplex.cli import app
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.intake.probe import probe
from wamplex.core.model.assets import AssetRef
from wamplex.core.model.development import Development
from wamplex.core.model.finish_values import (
    FaceTreatment,
    Finish,
    Grain,
    InitialMask,
    Layer,
    Mask,
    Sharpen,
    TreatedFace,
)
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.provenance.recipe_reader import read_recipe
from wamplex.core.workflow.hand_over import HandOver
from wamplex.core.workflow.orders.order import create_order
from wamplex.core.workflow.queue.journal import Journal, journal_path
from wamplex.core.workflow.recipe_transfer.transfer import Part

PAINTED = Mask(initial_mask=InitialMask(kind="subject", picture=AssetRef(digest="0" * 64)))
FACES = FaceTreatment(
    ellipses=(TreatedFace(x=0.5, y=0.5, width=20, height=30),), source_trial=TrialSpec(upscaler="mitchell")
)
# Decided for another picture: crop, painted mask and face position fit no other.
FROM_ANOTHER = Recipe(
    base=TrialSpec(upscaler="bicubic"),
    factor=2,
    density_ppi=240,
    framing=Framing(crop=Crop(x=3, y=4, width=50, height=40)),
    development=Development(exposure_ev=1),
).finished(Finish(layers=(Layer(strength=30), Layer(mask=PAINTED)), faces=FACES, sharpen=Sharpen(), grain=Grain()))
FITTED = FROM_ANOTHER.replace(framing=Framing(), development=None, layers=(Layer(strength=30),), faces=None)
PNG = Delivery(format="png", depth=8)


@pytest.fixture
def source(photo_file: Path) -> Path:
    folder = photo_file.parent / "source"
    folder.mkdir()
    return Path(shutil.move(photo_file, folder / "photo.png"))


@pytest.fixture
def recipe_file(tmp_path: Path) -> Path:
    path = tmp_path / "recipe.json"
    path.write_text(FROM_ANOTHER.model_dump_json())
    return path


@pytest.fixture
def expected(source: Path, recipe_file: Path, tmp_path: Path) -> Path:
    """The file that the command line writes."""
    enlarge(source, recipe_file, tmp_path / "expected")
    return tmp_path / "expected" / "photo-2x.png"


def enlarge(source: Path, recipe: Path, out: Path, *options: str) -> bytes:
    size = ("--factor", "2", "--ppi", "240", "--format", "png", "--depth", "8")
    result = CliRunner().invoke(
        app, ["enlarge", str(source), "--recipe", str(recipe), *size, "--out", f"{out}/", *options]
    )
    assert result.exit_code == 0, result.output
    return (out / "photo-2x.png").read_bytes()


def carry(window: MainWindow, qtbot: QtBot, path: Path) -> None:
    """Take a picture in and use the recipe for it."""
    window.take_in([path])
    entries = window.tray.entries
    qtbot.waitUntil(lambda: bool(entries) and entries[0].suggested is not None, timeout=WAIT_MS)
    parts = frozenset[Part](("developing", "size", "trial", "finish"))
    window.tray.carry([0], DecisionTransfer(FROM_ANOTHER, parts, remeasured=False, text="a recipe"))


def test_the_command_line_leaves_out_what_belongs_to_the_other_picture(expected: Path) -> None:
    recipe, origin = read_recipe(expected)
    assert recipe.replace(faces=None) == FITTED
    assert recipe.faces is not None
    assert recipe.faces.ellipses != FACES.ellipses  # found in this picture
    assert origin["RecipeDigest"] == hashlib.sha256(recipe.model_dump_json().encode()).hexdigest()


def test_the_command_line_names_what_it_leaves_out(source: Path, recipe_file: Path) -> None:
    words = ["enlarge", str(source), "--factor", "2", "--recipe", str(recipe_file), "--json"]
    (row,) = json.loads(CliRunner().invoke(app, words).stdout)
    text = "; ".join(row["reasons"])
    assert "crop, which belong" in text
    assert "whose mask belongs" in text


def test_the_folder_watch_gives_the_same_file(source: Path, recipe_file: Path, tmp_path: Path, expected: Path) -> None:
    arriving = tmp_path / "arriving"
    shutil.copytree(source.parent, arriving)
    options = ["--recipe", str(recipe_file), "--format", "png", "--depth", "8", "--once"]
    result = CliRunner().invoke(app, ["watch", str(arriving), "--out", str(tmp_path / "out"), *options])
    assert result.exit_code == 0, result.output
    assert (tmp_path / "out" / "photo-2x.png").read_bytes() == expected.read_bytes()
    assert "whose mask belongs" in result.output.replace("\n", " ")


def test_the_window_gives_the_same_file(
    qtbot: QtBot, window: MainWindow, source: Path, tmp_path: Path, expected: Path
) -> None:
    carry(window, qtbot, source)
    window.deliver_step.panel.use(PNG.replace(folder=tmp_path / "out"))
    window.deliver_step.deliver_all()
    target = tmp_path / "out" / "photo-2x.png"
    qtbot.waitUntil(target.exists, timeout=WAIT_MS)
    assert target.read_bytes() == expected.read_bytes()


def test_a_handed_over_file_gets_the_same_bytes(qtbot: QtBot, window: MainWindow, source: Path, expected: Path) -> None:
    controller = window.start_hand_over(HandOver(source))
    carry(window, qtbot, source)
    with qtbot.waitSignal(controller.ended, timeout=WAIT_MS):
        qtbot.mouseClick(controller.bar.back, Qt.MouseButton.LeftButton)
    assert source.read_bytes() == expected.read_bytes()


def test_a_resumed_job_gives_the_same_file(source: Path, tmp_path: Path, expected: Path) -> None:
    order = create_order(probe(source), read_recipe(expected)[0], PNG.replace(folder=tmp_path / "out"))
    ended = Journal(journal_path(), owner=str(2**22 - 7))  # a process number that no process has
    ended.add([order])
    assert CliRunner().invoke(app, ["resume"]).exit_code == 0
    assert (tmp_path / "out" / "photo-2x.png").read_bytes() == expected.read_bytes()


@pytest.fixture
def cropped_result(source: Path, tmp_path: Path) -> Path:
    recipe = tmp_path / "cropped.json"
    recipe.write_text(Recipe(framing=FROM_ANOTHER.framing, base=TrialSpec(upscaler="nearest")).model_dump_json())
    enlarge(source, recipe, tmp_path / "cropped", "--as-is")
    return tmp_path / "cropped" / "photo-2x.png"


def write_recipe_file(result: Path) -> Path:
    """What ``wamplex recipe FILE --json`` prints, as a file."""
    path = result.with_suffix(".json")
    path.write_text(CliRunner().invoke(app, ["recipe", str(result), "--json"]).stdout)
    return path


@pytest.mark.parametrize("recipe_of", [Path, write_recipe_file])
def test_a_crop_stays_for_the_picture_that_it_was_decided_for(
    source: Path, cropped_result: Path, tmp_path: Path, recipe_of: Callable[[Path], Path]
) -> None:
    recipe = recipe_of(cropped_result)
    moved = tmp_path / "moved" / "photo.png"
    moved.parent.mkdir()
    shutil.copy(source, moved)
    assert enlarge(moved, recipe, tmp_path / "again") == cropped_result.read_bytes()
    with moved.open("ab") as file:
        file.write(b"\0")  # another file, so another picture
    enlarge(moved, recipe, tmp_path / "other")
    assert probe(tmp_path / "other" / "photo-2x.png").width == 2 * probe(source).width
