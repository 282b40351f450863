"""Whether a picture was made by this program, from the recipe inside it."""

from __future__ import annotations

from dataclasses import dataclass

from wamplex.core.base.errors import RecipeError
from wamplex.core.model.picture import Picture
from wamplex.core.provenance.xmp import parse_recipe


@dataclass(frozen=True)
class OwnOrigin:
    """How a picture was made.

    Attributes
    ----------
    factor : it was enlarged by
    """

    upscaler: str
    factor: float
    source_name: str


def read_own_origin(picture: Picture) -> OwnOrigin | None:
    """Origin stated in a picture; None without one, or with an invalid one."""
    try:
        parsed = parse_recipe(picture.metadata.xmp)
    except RecipeError:
        return None
    if parsed is None:
        return None
    recipe, origin = parsed
    return OwnOrigin(recipe.upscaler, recipe.factor, origin.get("SourceName", ""))
