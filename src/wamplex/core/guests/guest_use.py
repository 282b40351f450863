"""Which guests a recipe shows."""

from __future__ import annotations

from wamplex.core.guests.guest import PREFIX, Guest
from wamplex.core.guests.guest_store import find_guest
from wamplex.core.model.recipe import Recipe


def guests_in_recipe(recipe: Recipe) -> tuple[Guest, ...]:
    """Guests in the stamped trial and its layers, each once.

    Raises
    ------
    RecipeError : when one is not on this computer
    """
    shown = [recipe.base, *(layer.source_trial for layer in recipe.layers if layer.source_trial is not None)]
    keys = dict.fromkeys(spec.upscaler for spec in shown if spec.upscaler.startswith(PREFIX))
    return tuple(find_guest(key) for key in keys)


def guest_provenance_text(recipe: Recipe) -> str:
    """Text on the origin of guest pixels; empty without guests."""
    return " ".join(f"{guest.name}: {guest.provenance}" for guest in guests_in_recipe(recipe))
