"""The recipe: every decision about one picture, as one frozen, checked and versioned value."""

from __future__ import annotations

import json
from typing import Any, Literal

from pydantic import Field, ValidationError

from wamplex.core.base.bounded_parsing import parse_json
from wamplex.core.base.errors import RecipeError
from wamplex.core.base.frozen_model import FrozenModel, describe_validation_error
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.geometry.size import DEFAULT_DENSITY_PPI, LARGEST_FACTOR, LEAST_FACTOR, Size
from wamplex.core.model.development import Development
from wamplex.core.model.finish_values import MOST_LAYERS, FaceTreatment, Finish, Grain, Layer, Sharpen, Tone
from wamplex.core.model.frame_set import FrameSet
from wamplex.core.model.legacy_fields import rename_fields
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values

RECIPE_VERSION: Literal[3] = 3


class Recipe(FrozenModel):
    """All decisions about one picture; where and as what its file is written is no part of them.

    Attributes
    ----------
    base : the stamped trial
    layers : what is laid over it, from below
    faces, tone, sharpen, grain : what is done after that, in this order
    development : how a raw file is developed; None as shot
    frames : further frames of the scene; None where the picture stands alone
    """

    version: Literal[3] = RECIPE_VERSION
    base: TrialSpec = TrialSpec()
    layers: tuple[Layer, ...] = Field(default=(), max_length=MOST_LAYERS)
    faces: FaceTreatment | None = None
    tone: Tone | None = None
    sharpen: Sharpen | None = None
    grain: Grain | None = None
    development: Development | None = None
    frames: FrameSet | None = None
    factor: float = Field(default=4.0, ge=LEAST_FACTOR, le=LARGEST_FACTOR)
    framing: Framing = Framing()
    density_ppi: float = Field(default=DEFAULT_DENSITY_PPI, ge=10, le=4800)
    sheet: Sheet | None = None

    @property
    def upscaler(self) -> str:
        """Key of the upscaler of the stamped trial."""
        return self.base.upscaler

    @property
    def values(self) -> Values:
        """Values of the stamped trial."""
        return self.base.values

    @property
    def finish(self) -> Finish:
        """All that is done after the stamped trial."""
        return Finish(layers=self.layers, faces=self.faces, tone=self.tone, sharpen=self.sharpen, grain=self.grain)

    def finished(self, finish: Finish) -> Recipe:
        """The same with another Finish.

        Parameters
        ----------
        finish : everything after the stamped trial
        """
        return self.replace(**{name: getattr(finish, name) for name in Finish.model_fields})

    @property
    def unfinished(self) -> Recipe:
        """The same without Finish: the stamped trial alone."""
        return self.finished(Finish())

    def size(self, source_width: int, source_height: int) -> Size:
        """Size of the result for a picture of this size: framing, then factor.

        Parameters
        ----------
        source_width : columns of the source
        source_height : rows of the source
        """
        return Size(*self.framing.size(source_width, source_height), self.factor, self.density_ppi)

    @staticmethod
    def from_json(text: str) -> Recipe:
        """Read a recipe written by ``model_dump_json``, of this version or an earlier one.

        Parameters
        ----------
        text : JSON

        Returns
        -------
        The recipe in its present version.

        Raises
        ------
        RecipeError : when the text is no recipe, or one of a later version
        """
        try:
            fields = parse_json(text)
        except ValueError as error:
            raise RecipeError(f"The recipe cannot be used: it is not JSON ({error}).") from error
        if not isinstance(fields, dict):
            raise RecipeError("The recipe cannot be used: it has no fields.")
        try:
            return Recipe.model_validate_json(json.dumps(migrate_recipe(fields)))
        except ValidationError as error:
            raise RecipeError(f"The recipe cannot be used: {describe_validation_error(error)}.") from error


def migrate_recipe(fields: dict[str, Any]) -> dict[str, Any]:
    """The fields of a recipe as this version has them.

    Version 1 had upscaler and values side by side with the rest, and the delivery inside. Up to version 2 many
    fields had other names.

    Parameters
    ----------
    fields : fields of a recipe of any version

    Returns
    -------
    Fields of the present version.
    """
    version = fields.get("version", 1)
    if version not in (1, 2):
        return fields
    fields = {**rename_fields(fields), "version": RECIPE_VERSION}
    if version == 2 or "base" in fields:
        return fields
    remaining = {k: v for k, v in fields.items() if k not in ("upscaler", "values", "delivery")}
    base = {k: fields[k] for k in ("upscaler", "values") if k in fields}
    return {**remaining, "base": base}
