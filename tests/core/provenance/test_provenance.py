"""The recipe inside the file: read by another library's XMP parser, and by ourselves."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import numpy as np
import pyexiv2
import pytest
import tifffile
from PIL import Image
from tests.cameras import chart, raw_file
from typer.testing import CliRunner

from wamplex.cli import app
from wamplex.core.analysis.report.condition import measure_whole_condition
from wamplex.core.analysis.report.findings import describe_condition
from wamplex.core.base.errors import RecipeError
from wamplex.core.deliver.deliver import deliver
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.intake.read import read_picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.provenance.origin import FileOrigin
from wamplex.core.provenance.recipe_reader import read_recipe, read_xmp
from wamplex.core.provenance.xmp import OURS, add_origin, parse_recipe, read_document_id

RECIPE = Recipe(base=TrialSpec(upscaler="lanczos"), factor=2, density_ppi=240)
ORIGIN = FileOrigin("Wamplex 1", "CPU", "a & b.png", "00" * 32, "xmp.did:1", RECIPE)
SOURCE_XMP = b"""<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:tiff="http://ns.adobe.com/tiff/1.0/"
 xmlns:xmpMM="http://ns.adobe.com/xap/1.0/mm/" dc:source="the archive" tiff:Orientation="6"
 xmpMM:DocumentID="xmp.did:the-source"/></rdf:RDF></x:xmpmeta>"""


@pytest.fixture
def source(tmp_path: Path) -> Path:
    path = tmp_path / "source.png"
    Image.fromarray(np.random.default_rng(1).integers(0, 256, (20, 30, 3), np.uint8)).save(path)
    return path


def made(source: Path, kind: str, **more: object) -> Path:
    delivery = Delivery(format=kind, folder=source.parent).replace(**more)  # type: ignore[arg-type]
    return deliver(read_picture(source), RECIPE, delivery).path


@pytest.mark.parametrize("kind", ["tiff", "png", "jpeg"])
def test_exiv2_reads_what_it_was_made_of(source: Path, kind: str) -> None:
    pyexiv2.registerNs(OURS, "wamplex")
    with pyexiv2.Image(str(made(source, kind))) as image:
        said = image.read_xmp()
    assert said["Xmp.wamplex.SourceDigest"] == Source.of(source).digest
    assert said["Xmp.wamplex.SourceName"] == "source.png"
    assert json.loads(said["Xmp.wamplex.Recipe"])["base"]["upscaler"] == "lanczos"
    assert said["Xmp.xmpMM.InstanceID"].startswith("xmp.iid:")
    assert said["Xmp.xmpMM.DerivedFrom/stRef:documentID"].startswith("xmp.did:")
    assert said["Xmp.xmp.CreatorTool"].startswith("Wamplex ")


@pytest.mark.parametrize("kind", ["tiff", "png", "jpeg", "dng"])
def test_the_recipe_is_read_out_again(source: Path, kind: str) -> None:
    found, said = read_recipe(made(source, kind))
    assert found == RECIPE
    assert said["SourceName"] == "source.png"


def test_a_raw_files_dng_holds_the_recipe_as_it_was_decided(tmp_path: Path) -> None:
    path = raw_file(tmp_path / "a.dng", chart())
    assert read_recipe(made(path, "dng"))[0].development is None


@pytest.mark.parametrize("kind", ["tiff", "png", "jpeg", "dng"])
def test_the_same_source_and_recipe_give_the_same_bytes(source: Path, kind: str) -> None:
    assert made(source, kind).read_bytes() == made(source, kind).read_bytes()


def test_another_recipe_is_another_instance_of_the_same_document(source: Path) -> None:
    first, second = (pyexiv2.Image(str(made(source, "png", quality=quality))).read_xmp() for quality in (80, 90))
    assert first == second  # the delivery is no part of the recipe
    other = deliver(read_picture(source), RECIPE.replace(factor=3), Delivery(folder=source.parent)).path
    third = pyexiv2.Image(str(other)).read_xmp()
    assert third["Xmp.xmpMM.DocumentID"] == first["Xmp.xmpMM.DocumentID"]
    assert third["Xmp.xmpMM.InstanceID"] != first["Xmp.xmpMM.InstanceID"]


def test_what_the_source_said_stays_but_for_what_held_for_it_alone() -> None:
    packet = add_origin(SOURCE_XMP, ORIGIN)
    assert b"the archive" in packet
    assert b"Orientation" not in packet
    assert packet.count(b"DocumentID") == 2  # opened and closed once
    assert read_document_id(SOURCE_XMP) == "xmp.did:the-source"
    again = add_origin(packet, ORIGIN)
    assert again == packet


def test_of_a_result_enlarged_once_more_the_later_recipe_counts() -> None:
    later = add_origin(
        add_origin(None, ORIGIN), FileOrigin("W 2", "CPU", "b", "11" * 32, "x", RECIPE.replace(factor=3))
    )
    found = parse_recipe(later)
    assert found is not None
    assert found[0].factor == 3


@pytest.mark.parametrize("broken", [b"", b"<x", b"<!DOCTYPE a [<!ENTITY b 'c'>]><a/>", b"\xff\xfe", b"<a/>"])
def test_damaged_xmp_of_the_source_is_left_out(broken: bytes) -> None:
    assert parse_recipe(add_origin(broken, ORIGIN)) is not None


def test_a_recipe_that_was_changed_is_refused() -> None:
    packet = add_origin(None, ORIGIN).replace(b"lanczos", b"bicubic")
    with pytest.raises(RecipeError, match="changed"):
        parse_recipe(packet)


def test_it_can_be_left_out(source: Path) -> None:
    assert read_xmp(made(source, "tiff", keep_recipe=False)) is None
    with tifffile.TiffFile(made(source, "tiff", metadata="none")) as file:
        assert 700 in file.pages[0].tags  # how it was made is no description of the source


def test_the_command_prints_it_and_enlarge_takes_it(source: Path, tmp_path: Path) -> None:
    path = made(source, "tiff")
    printed = CliRunner().invoke(app, ["recipe", str(path), "--json"])
    assert printed.exit_code == 0
    saved = tmp_path / "recipe.json"
    saved.write_text(printed.output)
    again = tmp_path / "again.tif"
    words = [
        "enlarge",
        str(source),
        "--recipe",
        str(saved),
        "--factor",
        "2",
        "--ppi",
        "240",
        "--out",
        str(again),
    ]
    assert CliRunner().invoke(app, words).exit_code == 0
    assert again.read_bytes() == path.read_bytes()
    refused = CliRunner().invoke(app, ["recipe", str(source)])
    assert refused.exit_code == 1


@pytest.mark.parametrize("suffix", ["csv", "json"])
def test_a_report_tells_of_what_was_made_and_what_was_not(source: Path, tmp_path: Path, suffix: str) -> None:
    broken, report = tmp_path / "broken.png", tmp_path / f"report.{suffix}"
    broken.write_bytes(b"no picture")
    words = ["enlarge", str(source), str(broken), "--factor", "2", "--upscaler", "bicubic"]
    assert CliRunner().invoke(app, [*words, "--report", str(report)]).exit_code == 1
    rows = json.loads(report.read_text()) if suffix == "json" else list(csv.DictReader(report.open()))
    made, failed = rows
    recipe, said = read_recipe(Path(made["path"]))
    assert made["recipe_digest"] == said["RecipeDigest"]
    assert (int(made["width"]), made["upscaler"], recipe.upscaler) == (60, "bicubic", "bicubic")
    assert "broken.png" in failed["error"]
    assert CliRunner().invoke(app, [*words, "--report", "report.txt"]).exit_code == 2


def test_the_condition_sheet_says_that_it_is_a_second_pass(source: Path) -> None:
    again = measure_whole_condition(read_picture(made(source, "png")), rows=("made by", "compression"))
    assert again.own_origin is not None
    assert (again.own_origin.factor, again.own_origin.source_name) == (2, "source.png")
    row = describe_condition(again)[0]
    assert row.title == "Second pass"
    assert "source.png" in row.reason
    first = measure_whole_condition(read_picture(source), rows=("made by", "compression"))
    assert "Second pass" not in [row.title for row in describe_condition(first)]
