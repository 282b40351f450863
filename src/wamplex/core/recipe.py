"""The recipe: every decision about one picture, as one frozen, checked and versioned value."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

from pydantic import Field, ValidationError

from wamplex.core.checked import Checked
from wamplex.core.errors import RecipeError
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.pages import Pages
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.geometry.size import DEFAULT_DENSITY_PPI, LARGEST_FACTOR, LEAST_FACTOR, Size
from wamplex.core.upscale.values import Values

FileFormat = Literal["tiff", "png", "jpeg"]
ProfileChoice = Literal["source", "srgb", "adobe-rgb", "display-p3"]
Compression = Literal["deflate", "none"]
RECIPE_VERSION: Literal[1] = 1


class Delivery(Checked):
    """What kind of file is written, and where.

    ``depth`` counts for TIFF and PNG, ``compression`` for TIFF, ``quality`` for JPEG.
    ``folder`` None means beside the source; ``pages`` None means one file.
    """

    format: FileFormat = "tiff"
    depth: Literal[8, 16] = 16
    compression: Compression = "deflate"
    quality: int = Field(default=92, ge=1, le=100)
    profile: ProfileChoice = "source"
    keep_metadata: bool = True
    folder: Path | None = None
    name_pattern: str = "{name}-{factor}x"
    pages: Pages | None = None


class Recipe(Checked):
    """All decisions about one picture."""

    version: Literal[1] = RECIPE_VERSION
    upscaler: str = "vellum"
    factor: float = Field(default=4.0, ge=LEAST_FACTOR, le=LARGEST_FACTOR)
    values: Values = Values()
    framing: Framing = Framing()
    density_ppi: float = Field(default=DEFAULT_DENSITY_PPI, ge=10, le=4800)
    sheet: Sheet | None = None
    delivery: Delivery = Delivery()

    def size(self, source_width: int, source_height: int) -> Size:
        """What the recipe makes of a picture of these dimensions: its framing first, then the factor."""
        return Size(*self.framing.size(source_width, source_height), self.factor, self.density_ppi)

    @staticmethod
    def from_json(text: str) -> Recipe:
        """Read a recipe written by ``model_dump_json``.

        Raises
        ------
        RecipeError : when the text is no recipe of this version
        """
        try:
            return Recipe.model_validate_json(text)
        except ValidationError as error:
            first = error.errors()[0]
            place = ".".join(str(part) for part in first["loc"]) or "the recipe"
            raise RecipeError(f"The recipe cannot be used: {place}: {first['msg']}.") from error
