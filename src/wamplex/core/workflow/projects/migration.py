"""Reads project files of older versions."""

from __future__ import annotations

import copy
import json
from typing import Any, TypeVar

from pydantic import ValidationError

from wamplex.core.base.frozen_model import FrozenModel
from wamplex.core.geometry.size import LARGEST_FACTOR, LEAST_FACTOR
from wamplex.core.model.legacy_fields import rename_fields
from wamplex.core.model.recipe import RECIPE_VERSION, migrate_recipe

Value = TypeVar("Value", bound=FrozenModel)
_LEAST_PPI, _MOST_PPI = 10, 4800
# What a picture of version 1 had side by side, and its recipe has since.
_MOVED = ("framing", "sheet")


def drop_unknown_fields(kind: type[Value], fields: dict[str, Any]) -> Value:
    """A value read from fields, those passed over that it does not know, at every depth.

    Raises
    ------
    ValidationError : when a field that it knows has a value that cannot be used
    """
    fields = copy.deepcopy(fields)
    while True:
        try:
            return kind.model_validate_json(json.dumps(fields))
        except ValidationError as error:
            unknown = [problem["loc"] for problem in error.errors() if problem["type"] == "extra_forbidden"]
            if not unknown:
                raise
            for place in unknown:
                _remove(fields, place)


def _remove(fields: Any, place: tuple[int | str, ...]) -> None:
    for step in place[:-1]:
        fields = fields[step]
    del fields[place[-1]]


def migrate_project(fields: dict[str, Any]) -> dict[str, Any]:
    """The fields of a project as this version has them.

    Version 1 had the parts of a recipe side by side in each picture, spots at shares of what the framing
    leaves, and always both spots and trials; a list of no spots meant that none had been found yet. Up to
    version 2 many fields had other names.
    """
    version = fields["version"]
    if version not in (1, 2):
        return fields
    fields = {**rename_fields(_migrate_recipes(fields)), "version": 3}
    if version == 2:
        return fields
    pictures = [_picture(p) for p in fields.get("pictures", ()) if isinstance(p, dict)]
    return {**fields, "pictures": pictures}


def _migrate_recipes(fields: dict[str, Any]) -> dict[str, Any]:
    pictures = fields.get("pictures")
    if not isinstance(pictures, list):
        return fields
    return {**fields, "pictures": [_migrate_picture(picture) for picture in pictures]}


def _migrate_picture(picture: Any) -> Any:
    if isinstance(picture, dict) and isinstance(picture.get("recipe"), dict):
        return {**picture, "recipe": migrate_recipe(picture["recipe"])}
    return picture


def _picture(old: dict[str, Any]) -> dict[str, Any]:
    recipe = {"version": RECIPE_VERSION, **{name: old[name] for name in _MOVED if name in old}}
    if "factor" in old:
        recipe["factor"] = min(max(old["factor"], LEAST_FACTOR), LARGEST_FACTOR)
    if "density_ppi" in old:
        recipe["density_ppi"] = min(max(old["density_ppi"], _LEAST_PPI), _MOST_PPI)
    trials = old.get("trials") or None
    stamped = next((t for t in trials or () if t.get("letter") == old.get("stamped")), None)
    if stamped is not None:
        recipe["base"] = {"upscaler": stamped["upscaler"], "values": stamped.get("values") or {}}
    fields = {name: old[name] for name in old if name not in (*_MOVED, "factor", "density_ppi")}
    return {
        **fields,
        "recipe": recipe,
        "trials": trials,
        "spots": old.get("spots") or None,
        "spots_in": "framed",
    }
