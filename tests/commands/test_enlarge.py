"""The command line, as a user calls it."""

from __future__ import annotations

import json
import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from skimage import data
from typer.testing import CliRunner

from wamplex.cli import app
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.model.finish_values import Grain
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec

RUN = CliRunner()


def test_upscalers_are_listed_as_json() -> None:
    listed = json.loads(RUN.invoke(app, ["upscalers", "--json"]).stdout)
    assert {"nearest", "bilinear", "bicubic", "mitchell", "lanczos", "vellum"} <= {u["key"] for u in listed}


def test_info_describes_a_file(photo_file: Path) -> None:
    values = json.loads(RUN.invoke(app, ["info", str(photo_file), "--json"]).stdout)
    assert (values["width"], values["height"], values["kind"], values["depth"]) == (150, 120, "PNG", 8)
    assert RUN.invoke(app, ["info", str(photo_file.with_name("none.png"))]).exit_code == 1


def test_enlarge_to_a_print_size(photo_file: Path, tmp_path: Path) -> None:
    out = tmp_path / "prints"
    args = ["enlarge", str(photo_file), "--upscaler", "bicubic", "--print", "5x9cm", "--ppi", "300"]
    result = RUN.invoke(app, [*args, "--out", str(out), "--format", "png", "--depth", "8", "--json"])
    assert result.exit_code == 0
    (row,) = json.loads(result.stdout)
    assert row["width"] == 591  # 5 cm at 118.11 px/cm
    with Image.open(row["path"]) as image:
        assert image.size == (591, 472)
        assert image.info["dpi"][0] == pytest.approx(300, abs=0.02)


def test_one_bad_file_does_not_stop_the_others(photo_file: Path, tmp_path: Path) -> None:
    bad = tmp_path / "bad.jpg"
    bad.write_bytes(b"\xff\xd8\xff\xe0 nothing more")
    args = ["enlarge", str(bad), str(photo_file), "--upscaler", "nearest", "--factor", "2", "--json"]
    result = RUN.invoke(app, args)
    assert result.exit_code == 1
    rows = json.loads(result.stdout)
    assert "damaged" in rows[0]["error"]
    assert Path(rows[1]["path"]).name == "photo-2x.tif"


@pytest.mark.parametrize(
    "words",
    [
        [],
        ["--factor", "9"],
        ["--factor", "2", "--width", "300"],
        ["--factor", "2", "--upscaler", "magic"],
        ["--factor", "2", "--depth", "12"],
        ["--print", "huge"],
        ["--factor", "2", "--format", "gif"],
        ["--factor", "2", "--out", "x.bmp"],
        ["--factor", "2", "--out", "x.png", "--format", "tiff"],
    ],
)
def test_wrong_usage_exits_with_2_and_a_sentence(photo_file: Path, words: list[str]) -> None:
    result = RUN.invoke(app, ["enlarge", str(photo_file), *words])
    assert result.exit_code == 2
    assert result.stderr.strip().endswith(".")
    assert [p.name for p in photo_file.parent.iterdir()] == ["photo.png"]


def test_trial_ranks_upscalers(photo_file: Path) -> None:
    args = ["trial", str(photo_file), "--upscalers", "nearest,lanczos", "--factor", "2"]
    result = RUN.invoke(app, [*args, "--json"])
    assert result.exit_code == 0
    values = json.loads(result.stdout)
    assert [a["upscaler"] for a in values["answers"]] == ["lanczos", "nearest"]
    assert values["answers"][0]["psnr_db"] > values["answers"][1]["psnr_db"]
    assert RUN.invoke(app, [*args, "--kernel", "magic"]).exit_code == 2
    assert RUN.invoke(app, ["trial", str(photo_file), "--factor", "8"]).exit_code == 1


def test_assess_prints_the_sheet(photo_file: Path) -> None:
    values = json.loads(RUN.invoke(app, ["assess", str(photo_file), "--json"]).stdout)
    assert values["medium"] == "photograph"
    assert {"Compression", "Noise", "Size"} <= {row["title"] for row in values["sheet"]}
    assert "Noise" in RUN.invoke(app, ["assess", str(photo_file)]).stdout
    assert RUN.invoke(app, ["assess", str(photo_file.with_name("none.png"))]).exit_code == 1


def test_enlarge_frames_first(photo_file: Path) -> None:
    args = [
        "enlarge",
        str(photo_file),
        "--upscaler",
        "nearest",
        "--factor",
        "2",
        "--format",
        "png",
        "--depth",
        "8",
    ]
    args += ["--crop", "40x30+20+10", "--turn", "90", "--json"]
    (row,) = json.loads(RUN.invoke(app, args).stdout)
    with Image.open(row["path"]) as made, Image.open(photo_file) as source:
        turned = source.transpose(Image.Transpose.ROTATE_270).crop((20, 10, 60, 40))
        assert np.array_equal(made, turned.resize((80, 60), Image.Resampling.NEAREST))
    over = RUN.invoke(app, [*args[:8], "--crop", "400x30+0+0"])
    assert over.exit_code == 1
    assert "reaches over the edge" in over.stderr
    assert RUN.invoke(app, [*args[:8], "--crop", "all"]).exit_code == 2


def test_enlarge_onto_a_sheet(photo_file: Path) -> None:
    args = [
        "enlarge",
        str(photo_file),
        "--upscaler",
        "bicubic",
        "--format",
        "png",
        "--depth",
        "8",
        "--ppi",
        "150",
    ]
    (row,) = json.loads(RUN.invoke(app, [*args, "--sheet", "A6", "--margin", "5", "--json"]).stdout)
    assert (row["width"], row["height"]) == (874, 620)  # 148 mm by 105 mm at 150 ppi
    (row,) = json.loads(RUN.invoke(app, [*args, "--sheet", "A6", "--pages", "9x7cm", "--json"]).stdout)
    assert len(row["pages"]) == 4
    both = RUN.invoke(app, [*args, "--sheet", "A6", "--factor", "2"])
    assert (both.exit_code, "exactly one of" in both.stderr) == (2, True)
    assert RUN.invoke(app, [*args, "--sheet", "A77"]).exit_code == 2


def test_what_is_suggested_is_used_and_said(photo_file: Path) -> None:
    old = photo_file.with_name("old.jpg")
    Image.open(photo_file).save(old, quality=40)
    args = ["enlarge", str(old), "--factor", "2", "--format", "png", "--json"]
    (row,) = json.loads(RUN.invoke(app, args).stdout)
    assert (row["upscaler"], row["values"]["compression"]) == ("mender", 60)
    assert "suggested because" in row["reasons"][0]
    assert any("quality 40" in reason for reason in row["reasons"][1:])
    told = [*args, "--upscaler", "vellum", "--blur", "-45", "--motion-blur", "3", "--motion-angle", "20"]
    (row,) = json.loads(RUN.invoke(app, told).stdout)
    assert [row["values"][name] for name in ("blur", "motion_blur_px", "motion_blur_deg")] == [-45, 3, 20]
    assert "Sharpness of the source -45: as you chose" in row["reasons"]
    assert RUN.invoke(app, [*args, "--blur", "120"]).exit_code == 2
    (row,) = json.loads(RUN.invoke(app, [*args, "--invention", "30"]).stdout)
    assert "--texture is ignored: Mender has no such value" in row["reasons"]
    (row,) = json.loads(RUN.invoke(app, [*args, "--upscaler", "thicket", "--texture", "30"]).stdout)
    assert row["values"]["texture_strength"] == 30


def test_an_earlier_enlargement_is_undone_when_all_is_left_to_suggestions(tmp_path: Path) -> None:
    large = Image.fromarray(data.coffee()[:150, :200]).resize((400, 300), Image.Resampling.BICUBIC)
    large.save(tmp_path / "large.png")
    args = ["enlarge", str(tmp_path / "large.png"), "--factor", "2", "--format", "png", "--json"]
    (row,) = json.loads(RUN.invoke(app, args).stdout)
    assert (row["width"], row["height"]) == (800, 600)
    assert any(reason.startswith("shrunk 2 times first") for reason in row["reasons"])
    (row,) = json.loads(RUN.invoke(app, [*args, "--upscaler", "vellum"]).stdout)
    assert not any(reason.startswith("shrunk") for reason in row["reasons"])


def test_brackets_in_names_are_no_markup(photo_file: Path, tmp_path: Path) -> None:
    path = photo_file.rename(tmp_path / "cat[edited][b].png")
    done = RUN.invoke(app, ["enlarge", str(path), "--upscaler", "bicubic", "--factor", "2"])
    assert "cat[edited][b]-2x.tif" in done.stdout
    assert (tmp_path / "cat[edited][b]-2x.tif").exists()


def test_where_results_go_may_be_said_in_odd_ways(
    photo_file: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    command = ["enlarge", "--upscaler", "bicubic", "--factor", "2"]
    dashed = photo_file.rename(tmp_path / "-o.png")
    assert RUN.invoke(app, [*command, "--out", "v1.3/", "--", dashed.name]).exit_code == 0
    assert (tmp_path / "v1.3" / "-o-2x.tif").exists()
    done = RUN.invoke(app, [*command, "--out", "", "--", dashed.name])
    assert (done.exit_code, "--out is empty" in done.stderr) == (2, True)
    done = RUN.invoke(app, [*command, "--out", "/".join(["d" * 200] * 22) + "/", "--", dashed.name])
    assert (done.exit_code, "cannot be created: file name too long" in done.stderr.lower()) == (1, True)
    for name in ("", ".", "x" * 300):
        done = RUN.invoke(app, ["info", name])
        assert done.exit_code == 1
        assert re.search(r"^\S+ (is a folder|cannot be opened: file name too long)", done.stderr)


def test_finishing_is_said_on_the_command_line(photo_file: Path, tmp_path: Path) -> None:
    """Everything at once, and again by a project that says the same."""
    mask = np.zeros((60, 75), np.uint8)
    mask[20:40] = 255
    Image.fromarray(mask).save(tmp_path / "mask.png")
    command = ["enlarge", str(photo_file), "--factor", "2", "--upscaler", "lanczos", "--json"]
    finish = [
        *("--layer", f"source:70@{tmp_path / 'mask.png'}", "--layer", "mitchell:20"),
        *("--faces", "contour:80", "--match", f"{photo_file}:50"),
        *("--sharpen", "100", "--sharpen-radius", "0.1", "--halo-limit", "3", "--grain", "2"),
    ]
    (row,) = json.loads(RUN.invoke(app, [*command, *finish, "--out", str(tmp_path / "a.png")]).stdout)
    assert any("faces are made with Contour" in words or "no face" in words for words in row["reasons"])
    finished, plain = (np.asarray(Image.open(tmp_path / "a.png").convert("RGB")).astype(int), None)
    assert RUN.invoke(app, [*command, "--out", str(tmp_path / "b.png")]).exit_code == 0
    plain = np.asarray(Image.open(tmp_path / "b.png").convert("RGB")).astype(int)
    assert np.abs(finished - plain).mean() > 1
    recipe = Recipe(base=TrialSpec(upscaler="lanczos"), factor=2, grain=Grain(amount=9))
    (tmp_path / "recipe.json").write_text(recipe.model_dump_json())
    made = [*command, "--recipe", str(tmp_path / "recipe.json"), "--out", str(tmp_path / "c.png")]
    assert RUN.invoke(app, made).exit_code == 0
    grainy = np.asarray(Image.open(tmp_path / "c.png").convert("RGB")).astype(int)
    assert 4 < (grainy - plain).std() < 10
    cropped = recipe.replace(framing=Framing(crop=Crop(x=10, y=10, width=60, height=40)))
    (tmp_path / "recipe.json").write_text(cropped.model_dump_json())
    wide = [
        "enlarge",
        str(photo_file),
        "--width",
        "240",
        "--json",
        "--as-is",
        "--recipe",
        str(tmp_path / "recipe.json"),
    ]
    (row,) = json.loads(RUN.invoke(app, [*wide, "--out", str(tmp_path / "d.png")]).stdout)
    assert (row["width"], row["height"]) == (240, 160)  # of the crop, not of the whole picture


@pytest.mark.parametrize(
    ("option", "words"),
    [
        (["--layer", "vellum@"], "name the mask"),
        (["--layer", "nothing"], "no upscaler called"),
        (["--layer", "vellum:120"], "outside 0 to 100"),
        (["--sharpen", "900"], "outside 0 to 500"),
        (["--recipe", "none.json"], "cannot be read"),
    ],
)
def test_what_cannot_be_finished_so_is_refused(option: list[str], words: str, photo_file: Path) -> None:
    done = RUN.invoke(app, ["enlarge", str(photo_file), "--factor", "2", *option])
    assert (done.exit_code, words in done.stderr) == (2, True)


@pytest.mark.parametrize("name", ["a.tiff", "a.tif", "a.jpeg", "a.JPG"])
def test_a_file_keeps_the_suffix_that_it_was_given(name: str, photo_file: Path, tmp_path: Path) -> None:
    out = tmp_path / "prints"
    out.mkdir()
    result = RUN.invoke(
        app, ["enlarge", str(photo_file), "--factor", "1.5", "--upscaler", "nearest", "--out", str(out / name)]
    )
    assert result.exit_code == 0, result.output
    assert [path.name for path in out.iterdir()] == [name]


@pytest.mark.parametrize(
    ("new", "old"),
    [
        ("--deblock", "--blocks"),
        ("--blur", "--softness"),
        ("--motion-blur", "--moved"),
        ("--back-projection", "--anchor"),
    ],
)
def test_options_work_under_their_old_names_which_are_not_listed(new: str, old: str, photo_file: Path) -> None:
    help_text = RUN.invoke(app, ["enlarge", "--help"]).output
    assert new in help_text
    assert f"{old} " not in help_text
    rows = []
    for option in (new, old):
        args = ["enlarge", str(photo_file), "--factor", "1.5", "--upscaler", "mender", option, "0", "--json"]
        (row,) = json.loads(RUN.invoke(app, args).stdout)
        rows.append(row["values"])
    assert rows[0] == rows[1]
