"""Describes each part of a recipe in one line."""

from __future__ import annotations

from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.file_formats import FILE_FORMATS
from wamplex.core.geometry.size_text import density_text
from wamplex.core.model.development import CURVE_WORDS, HIGHLIGHT_WORDS, SPACE_WORDS, Development
from wamplex.core.model.finish_values import Finish
from wamplex.core.model.recipe import Recipe
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.workflow.recipe_transfer.transfer import Part, is_guest

PART_NAMES: dict[Part, str] = {
    "developing": "Developing",
    "size": "Size",
    "trial": "Trial",
    "finish": "Finish",
    "delivery": "File",
}


def part_text(part: Part, recipe: Recipe, delivery: Delivery | None) -> str:
    """Text about a part of a recipe; empty without decisions."""
    if part == "developing":
        return "" if recipe.development is None else _developing(recipe.development)
    if part == "size":
        sheet = "" if recipe.sheet is None else f"on {recipe.sheet.name}, {recipe.sheet.place}, "
        return f"{sheet}{'' if sheet else f'{recipe.factor:.4g}×, '}{density_text(recipe.density_ppi)}"
    if part == "trial":
        return "a guest" if is_guest(recipe.base) else find_upscaler(recipe.upscaler).name
    if part == "finish":
        return _finish(recipe.finish)
    return "" if delivery is None else _file(delivery)


def _developing(development: Development) -> str:
    texts = []
    if development.light is not None:
        texts.append(f"light {development.light.kelvin:.0f} K")
    elif development.neutral is not None:
        texts.append("grey point")
    if development.exposure_ev:
        texts.append(f"{development.exposure_ev:+.1f} EV")
    texts += [
        text[value]  # type: ignore[index]
        for text, value in (
            (HIGHLIGHT_WORDS, development.highlights),
            (CURVE_WORDS, development.curve),
            (SPACE_WORDS, development.space),
        )
    ]
    return ", ".join(texts)


def _finish(finish: Finish) -> str:
    texts = []
    if finish.layers:
        texts.append("1 layer" if len(finish.layers) == 1 else f"{len(finish.layers)} layers")
    if finish.faces is not None:
        texts.append("trial for faces")
    if finish.tone is not None:
        texts.append(f"tone of {finish.tone.reference or 'a reference'}")
    if finish.sharpen is not None:
        texts.append(f"sharpened {finish.sharpen.amount:g} %")
    if finish.grain is not None:
        texts.append(f"grain {finish.grain.amount:g}")
    return ", ".join(texts)


def _file(delivery: Delivery) -> str:
    info = FILE_FORMATS[delivery.format]
    depth = f", {delivery.depth} bit" if len(info.depths) > 1 else ""
    quality = f", quality {delivery.quality}" if delivery.format == "jpeg" else ""
    return f"{info.label}{depth}{quality}, named {delivery.name_pattern}"
