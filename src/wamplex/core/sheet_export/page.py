"""A page of pictures, text and rules, independent of the file format."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from wamplex.core.base.array_types import Rgb8

FontFace = Literal["text", "bold", "heading"]


@dataclass(frozen=True)
class PlacedPicture:
    """(h, w, 3) uint8 sRGB with its upper left corner at x, y mm, ``width`` by ``height`` mm large."""

    pixels: Rgb8
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True)
class PlacedText:
    """Words whose baseline begins at x, y mm; ``size`` in points; cut off after ``room`` mm."""

    text: str
    x: float
    y: float
    size: float = 8.0
    face: FontFace = "text"
    room: float = 1000.0


@dataclass(frozen=True)
class Rule:
    """A thin line between two points in mm."""

    x1: float
    y1: float
    x2: float
    y2: float


@dataclass
class SheetPage:
    """One page; x to the right and y down, in millimetres."""

    width: float
    height: float
    pictures: list[PlacedPicture] = field(default_factory=list)
    texts: list[PlacedText] = field(default_factory=list)
    rules: list[Rule] = field(default_factory=list)
