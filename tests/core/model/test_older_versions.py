"""Files that version 0.1 wrote open with every decision in its place, and are written with today's names."""

from __future__ import annotations

import json
import zipfile
from pathlib import Path

import pytest

from wamplex.core.model.recipe import Recipe
from wamplex.core.model.settings import load_settings, settings_path
from wamplex.core.model.upscale_values import Values
from wamplex.core.workflow.projects.project import open_project
from wamplex.core.workflow.recipe_transfer.named_recipe import read_named_recipe

DATA = Path(__file__).parents[2] / "data"
OLD_NAMES = (
    "softness",
    "blocks",
    "moved_px",
    "invention",
    "spared",
    "careful",
    "anchor_levels",
    "begins",
    "ovals",
    "shows",
)


def old_recipe() -> str:
    """A recipe as version 0.1 wrote it, with all that has another name since."""
    return (DATA / "recipe-2.json").read_text()


def check(recipe: Recipe) -> None:
    values = recipe.values
    assert (values.noise, values.compression, values.blur) == (12, 30, -20)
    assert (values.motion_blur_px, values.motion_blur_deg, values.texture_strength) == (2.5, 40, 70)
    assert (values.self_ensemble, values.back_projection_levels, values.keep_source) == (True, 1.5, 5)
    assert values.protected[0].radius == 0.1
    (layer,) = recipe.layers
    assert layer.source_trial is not None
    assert (layer.source_trial.upscaler, layer.source_trial.values.texture_strength) == ("thicket", 20)
    assert (layer.mask.initial_mask.kind, layer.mask.initial_mask.colour_tolerance) == ("colours", 33)
    assert recipe.faces is not None
    assert (recipe.faces.attenuation, recipe.faces.source_trial) == (60, recipe.base)
    (ellipse,) = recipe.faces.ellipses
    assert ellipse.source_trial is not None
    assert ellipse.source_trial.values == Values(blur=10)
    assert recipe.grain is not None
    assert recipe.grain.midtones == 80


def test_a_recipe_keeps_all_its_decisions_under_their_new_names() -> None:
    recipe = Recipe.from_json(old_recipe())
    check(recipe)
    written = recipe.model_dump_json()
    assert not [name for name in OLD_NAMES if f'"{name}"' in written]
    assert Recipe.from_json(written) == recipe


def test_a_project_keeps_its_pictures_trials_and_blind_choices(tmp_path: Path) -> None:
    path = tmp_path / "old.wamplex"
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("project.json", (DATA / "project-2.json").read_text())
    project, _ = open_project(path)
    (picture,) = project.pictures
    check(picture.recipe)
    assert (picture.relative_path, picture.viewing_distance_mm) == ("stage.jpg", 700)
    assert picture.trials is not None
    assert picture.trials[0].values == picture.recipe.values
    assert project.blind_choices == {"mender": 3}


def test_a_recipe_stored_under_a_name_is_read() -> None:
    stored = {"format": "wamplex-saved-recipe", "version": 1, "name": "foyer", "recipe": json.loads(old_recipe())}
    check(read_named_recipe(json.dumps(stored).encode(), "foyer").recipe)


@pytest.mark.parametrize("name", ["own_papers", "custom_papers"])
def test_paper_sizes_of_the_user_are_found_under_either_name(name: str) -> None:
    settings_path().parent.mkdir(parents=True)
    settings_path().write_text(json.dumps({name: [["Foyer", 100.0, 200.0]]}))
    assert load_settings().custom_papers == (("Foyer", 100.0, 200.0),)
