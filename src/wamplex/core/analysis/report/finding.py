"""A row of the condition sheet, and what it suggests."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from wamplex.core.analysis.report.condition import Measurement
from wamplex.core.base.window import Window

Act = Literal["upscaler", "noise", "compression", "blur", "motion_blur_px", "spot", "faces", "factor", "shrink", "crop"]
RowKey = Measurement | Literal["size", "small faces", "transparency"]


@dataclass(frozen=True)
class Suggestion:
    """One suggestion of the condition sheet.

    Attributes
    ----------
    act : what is done
    text : the same for the user
    upscaler : key of the upscaler it speaks of
    amount : noise or compression value, factor, or factor to shrink by
    crop : what is left of the picture, in its pixels
    at_first : whether it is ticked before the user has said anything
    """

    act: Act
    text: str
    upscaler: str | None = None
    amount: float | None = None
    crop: Window | None = None
    at_first: bool = True


@dataclass(frozen=True)
class Finding:
    """One row of the condition sheet."""

    key: RowKey
    title: str
    value: str
    reason: str
    suggestion: Suggestion | None = None
