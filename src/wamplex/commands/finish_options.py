"""Parses the options for finishing."""

from __future__ import annotations

from pathlib import Path

from wamplex.core.base.errors import RecipeError
from wamplex.core.finish.finish_request import SOURCE, FinishRequest, LayerRequest
from wamplex.core.model.finish_values import Finish
from wamplex.core.trial.registry import find_upscaler


def parse_finish(
    layers: list[str],
    faces: str | None,
    match: str | None,
    sharpen: float,
    radius_mm: float | None,
    halo_limit: float | None,
    grain: float,
    size_mm: float | None,
) -> FinishRequest:
    """Parse the options for finishing.

    Raises
    ------
    RecipeError : when one of them cannot be used
    """
    for name, value, maximum in (("--sharpen", sharpen, 500), ("--grain", grain, 60)):
        if not 0 <= value <= maximum:
            raise RecipeError(f"{name} {value:g} is outside 0 to {maximum}.")
    for name, length in (("--sharpen-radius", radius_mm), ("--grain-size", size_mm)):
        if length is not None and not 0 < length <= 5:
            raise RecipeError(f"{name} {length:g} mm is outside 0 to 5 mm.")
    if halo_limit is not None and not 0 <= halo_limit <= 255:
        raise RecipeError(f"--halo-limit {halo_limit:g} levels is outside 0 to 255.")
    reference = None if match is None else _with_strength(match, "--match")
    return FinishRequest(
        layers=tuple(_layer(text) for text in layers),
        faces=None if faces is None else _upscaler(faces, "--faces"),
        match=None if reference is None else (Path(reference[0]), reference[1]),
        sharpen=sharpen,
        radius_mm=radius_mm,
        halo_limit=halo_limit,
        grain=grain,
        size_mm=size_mm,
    )


def merge_finish(given: Finish, of_recipe: Finish) -> Finish:
    """Override the Finish of a recipe with that of the options."""
    changes = {name: getattr(given, name) for name in Finish.model_fields if getattr(given, name)}
    return of_recipe.replace(**changes)


def _layer(text: str) -> LayerRequest:
    head, at, mask = text.partition("@")
    if at and not mask:
        raise RecipeError(f"--layer {text}: name the mask after @, such as vellum:70@mask.png.")
    layer = _upscaler(head, "--layer", source=True)
    return LayerRequest(layer.key, layer.strength, Path(mask) if at else None)


def _upscaler(text: str, option: str, *, source: bool = False) -> LayerRequest:
    key, strength = _with_strength(text, option)
    if not (source and key == SOURCE):
        key = find_upscaler(key).key
    return LayerRequest(key, strength)


def _with_strength(text: str, option: str) -> tuple[str, float]:
    head, colon, number = text.rpartition(":")
    if not colon:
        return text, 100.0
    try:
        strength = float(number)
    except ValueError:
        return text, 100.0  # a colon in a file's name
    if not 0 <= strength <= 100:
        raise RecipeError(f"{option} {text}: a strength of {number} is outside 0 to 100.")
    return head, strength
