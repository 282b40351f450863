"""One upscaler with one set of values: what a trial, a layer or a face is made with."""

from __future__ import annotations

from wamplex.core.base.frozen_model import FrozenModel
from wamplex.core.model.upscale_values import Values


class TrialSpec(FrozenModel):
    """One upscaler with one set of values."""

    upscaler: str = "vellum"
    values: Values = Values()
