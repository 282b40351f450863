"""Values that are frozen, and checked again whenever a copy differs."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Self

from pydantic import BaseModel, ConfigDict, ValidationError

from wamplex.core.base.errors import RecipeError


class FrozenModel(BaseModel):
    """Base of all values that decisions are made of."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    def replace(self, **changes: Any) -> Self:
        """The same but for some fields.

        Raises
        ------
        RecipeError : when a field cannot have such a value
        """
        fields = {name: getattr(self, name) for name in type(self).model_fields}
        try:
            return type(self).model_validate({**fields, **changes})
        except ValidationError as error:
            raise RecipeError(f"This cannot be used: {describe_validation_error(error)}.") from error

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """Validated copy, unlike pydantic's own."""
        return self.replace(**update) if update else super().model_copy(deep=deep)


def describe_validation_error(error: ValidationError) -> str:
    """The first invalid field, and what it should be."""
    first = error.errors()[0]
    place = ".".join(str(part) for part in first["loc"])
    return f"{place}: {first['msg']}" if place else str(first["msg"])
