"""What is nested without end is refused in words, wherever it comes from."""

from __future__ import annotations

import io
import json
import zipfile
from pathlib import Path

import pytest

from wamplex.core.base.bounded_parsing import MAX_DEPTH, parse_json, parse_xml
from wamplex.core.base.errors import ProjectError, RecipeError
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.settings import load_settings, settings_path
from wamplex.core.provenance.xmp import parse_recipe
from wamplex.core.workflow.projects.project import open_project
from wamplex.core.workflow.recipe_source import load_sourced_recipe

DEEP = "[" * 10_000 + "]" * 10_000


@pytest.mark.parametrize("text", [DEEP, '{"a":' * 10_000 + "1" + "}" * 10_000, "[" * 100_000])
def test_deep_json_is_refused(text: str) -> None:
    with pytest.raises(ValueError, match="nested"):
        parse_json(text)


def test_brackets_in_strings_do_not_count() -> None:
    value = {"name": "[" * 500, "quoted": '"[' * 500, "ends": "\\"}
    assert parse_json(json.dumps(value)) == value
    level: object = 1
    for _ in range(MAX_DEPTH):
        level = [level]
    assert parse_json(json.dumps(level).encode()) == level


def test_deep_xml_is_refused() -> None:
    with pytest.raises(ValueError, match="nested"):
        parse_xml(b"<a>" * 4000 + b"</a>" * 4000)
    for encoding in ("utf-8", "utf-16"):
        with pytest.raises(ValueError, match="entities"):
            parse_xml('<!DOCTYPE a [<!ENTITY b "c">]><a/>'.encode(encoding))
    assert len(parse_xml(b"<a>" + b"<b/>" * 5000 + b"</a>")) == 5000


def test_recipes_projects_settings_and_metadata_stay_within_bounds(tmp_path: Path) -> None:
    text = '{"version": 3, "base": ' + DEEP + "}"
    with pytest.raises(RecipeError, match="nested"):
        Recipe.from_json(text)
    (tmp_path / "recipe.json").write_text(text)
    with pytest.raises(RecipeError, match="nested"):
        load_sourced_recipe(tmp_path / "recipe.json")
    body = io.BytesIO()
    with zipfile.ZipFile(body, "w") as archive:
        archive.writestr("project.json", text)
    (tmp_path / "a.wamplex").write_bytes(body.getvalue())
    with pytest.raises(ProjectError):
        open_project(tmp_path / "a.wamplex")
    settings_path().parent.mkdir(parents=True, exist_ok=True)
    settings_path().write_text(text)
    assert load_settings() is not None
    rdf = b'<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
    assert parse_recipe(rdf + b"<a>" * 4000 + b"</a>" * 4000 + b"</rdf:RDF>") is None
