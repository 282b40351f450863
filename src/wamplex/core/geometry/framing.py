"""How a picture is turned, straightened and cropped before it is enlarged."""

from __future__ import annotations

import math
from typing import Literal

from pydantic import Field

from wamplex.core.base.errors import SizeError
from wamplex.core.base.frozen_model import FrozenModel
from wamplex.core.base.window import Window
from wamplex.core.geometry.placement import Placement

MOST_STRAIGHTENING_DEG = 45.0
LEAST_CROP_PX = 8
Quarters = Literal[0, 1, 2, 3]


class Crop(FrozenModel):
    """A rectangle in pixels of the turned and straightened picture.

    Its axes are the print's, and its middle is that of the turned picture; straightened by 0 degrees, (0, 0)
    is its upper left corner.
    """

    x: int
    y: int
    width: int = Field(ge=1)
    height: int = Field(ge=1)

    @property
    def window(self) -> Window:
        """The same rectangle as a window."""
        return Window(self.x, self.y, self.width, self.height)


class Framing(FrozenModel):
    """What is done in this order: quarter turns, flip, straightening, crop.

    Attributes
    ----------
    turns : quarter turns clockwise
    flipped : left and right are exchanged after turning
    straighten_deg : the picture is rotated clockwise by this, together with the enlargement
    crop : None for as much as there is: the whole picture, or the largest part of its proportions without
        empty corners when it is straightened
    shrink_first : the picture is shrunk by this before it is enlarged, because it had been enlarged before
    """

    turns: Quarters = 0
    flipped: bool = False
    straighten_deg: float = Field(default=0.0, ge=-MOST_STRAIGHTENING_DEG, le=MOST_STRAIGHTENING_DEG)
    crop: Crop | None = None
    shrink_first: float = Field(default=1.0, ge=1.0, le=8.0)

    def turned_size(self, width: int, height: int) -> tuple[int, int]:
        """Columns and rows after the quarter turns.

        Parameters
        ----------
        width : columns, in pixels
        height : rows, in pixels
        """
        return (height, width) if self.turns % 2 else (width, height)

    def window(self, width: int, height: int) -> Window:
        """Window that the crop keeps of a picture of this size.

        Parameters
        ----------
        width : columns, in pixels
        height : rows, in pixels
        """
        turned = self.turned_size(width, height)
        if self.crop is not None:
            return self.crop.window
        return largest_inner_crop(*turned, self.straighten_deg, turned[0] / turned[1])

    def size(self, width: int, height: int) -> tuple[int, int]:
        """Columns and rows of what is kept.

        Parameters
        ----------
        width : columns, in pixels
        height : rows, in pixels
        """
        crop = self.window(width, height)
        return crop.width, crop.height

    def checked(self, width: int, height: int) -> Framing:
        """This framing, if it fits a picture of these dimensions.

        Parameters
        ----------
        width : columns, in pixels
        height : rows, in pixels

        Raises
        ------
        SizeError : when the crop reaches over the picture's edge or is too small
        """
        crop = self.window(width, height)
        if min(crop.width, crop.height) < LEAST_CROP_PX and self.crop is not None:
            raise SizeError(f"A crop must be at least {LEAST_CROP_PX} pixels a side.")
        turned = self.turned_size(width, height)
        if not crop_is_inside(crop, *turned, self.straighten_deg):
            raise SizeError(
                f"The crop of {crop.width} × {crop.height} px at {crop.x}, {crop.y} reaches over the edge of "
                f"the picture, which has {turned[0]} × {turned[1]} px. Make it smaller or move it inwards."
            )
        return self


def oriented_placement(framing: Framing, width: int, height: int) -> Placement:
    """Placement of a source of this size after rotation and flip.

    Parameters
    ----------
    framing : rotation, straightening and crop
    width : columns, in pixels
    height : rows, in pixels

    Returns
    -------
    From source pixels to pixels of the turned picture.
    """
    place, wide, high = Placement(), width, height
    for _ in range(framing.turns):
        place, wide, high = place.then(Placement.quarter_turned(high)), high, wide
    return place.then(Placement.mirroring(wide)) if framing.flipped else place


def framed_placement(framing: Framing, width: int, height: int) -> Placement:
    """Placement of a source of this size in the framed picture, at the same scale.

    Parameters
    ----------
    framing : rotation, straightening and crop
    width : columns, in pixels
    height : rows, in pixels

    Returns
    -------
    From source pixels to pixels of what is kept.
    """
    turned = framing.turned_size(width, height)
    crop = framing.window(width, height)
    straightened = Placement.rotation(framing.straighten_deg, *turned)
    full_placement = oriented_placement(framing, width, height).then(straightened)
    return full_placement.then(Placement.translation(-crop.x, -crop.y))


def to_framed(framing: Framing, width: int, height: int, x: float, y: float) -> tuple[float, float]:
    """Map a place of the source into the framed picture.

    Parameters
    ----------
    framing : rotation, straightening and crop
    width : columns, in pixels
    height : rows, in pixels
    x : column in the picture as it lies in its file
    y : row in the picture as it lies in its file

    Returns
    -------
    Column and row, as fractions of width and height.
    """
    crop = framing.window(width, height)
    across, down = framed_placement(framing, width, height).at(x * width, y * height)
    return across / crop.width, down / crop.height


def from_framed(framing: Framing, width: int, height: int, x: float, y: float) -> tuple[float, float]:
    """Map a place of the framed picture into the source; the inverse of `to_framed`.

    Parameters
    ----------
    framing : rotation, straightening and crop
    width : columns, in pixels
    height : rows, in pixels
    x : column in the framed picture
    y : row in the framed picture

    Returns
    -------
    Column and row, as fractions of width and height.
    """
    crop = framing.window(width, height)
    across, down = framed_placement(framing, width, height).inverse.at(x * crop.width, y * crop.height)
    return across / width, down / height


def crop_to_ratio(framing: Framing, width: int, height: int, ratio: float) -> Framing:
    """The largest crop of a ratio inside the present crop, around its centre.

    Parameters
    ----------
    framing : rotation, straightening and crop
    width : columns, in pixels
    height : rows, in pixels
    ratio : width divided by height

    Returns
    -------
    The framing with that crop.
    """
    crop = framing.window(width, height)
    new_width = max(1, min(crop.width, round(crop.height * ratio)))
    new_height = max(1, min(crop.height, round(crop.width / ratio)))
    x, y = crop.x + (crop.width - new_width) // 2, crop.y + (crop.height - new_height) // 2
    return framing.replace(crop=Crop(x=x, y=y, width=new_width, height=new_height))


def crop_is_inside(part: Window, width: int, height: int, degrees: float) -> bool:
    """Whether a rectangle of the straightened picture has picture all over, to a hundredth of a pixel.

    Parameters
    ----------
    part : the crop
    width : columns, in pixels
    height : rows, in pixels
    degrees : straightening, clockwise
    """
    corners = [(x, y) for x in (part.x, part.right) for y in (part.y, part.bottom)]
    turned = Placement.rotation(-degrees, width, height)
    places = [turned.at(float(x), float(y)) for x, y in corners]
    slack = 0.01
    return all(-slack <= x <= width + slack and -slack <= y <= height + slack for x, y in places)


def largest_inner_crop(width: int, height: int, degrees: float, ratio: float) -> Window:
    """The largest rectangle of a ratio around the middle that a straightened picture fills.

    Its half diagonal, turned back, may reach each of the picture's sides: for a rectangle w by h turned by a,
    w cos a + h sin a <= width and w sin a + h cos a <= height.

    Parameters
    ----------
    width : columns, in pixels
    height : rows, in pixels
    degrees : straightening, clockwise
    ratio : width divided by height; None for any

    Returns
    -------
    In pixels of the straightened picture, around its middle.

    Examples
    --------
    >>> largest_inner_crop(600, 400, 0.0, 1.0)
    Window(x=100, y=0, width=400, height=400)
    """
    turn = math.radians(abs(degrees))
    high = min(width / (ratio * math.cos(turn) + math.sin(turn)), height / (ratio * math.sin(turn) + math.cos(turn)))
    cropped_width = max(1, math.floor(high * ratio + 1e-6))
    cropped_height = max(1, math.floor(high + 1e-6))
    # An odd rest would put the rectangle off the middle by half a pixel, over the edge when it is turned.
    if degrees:
        cropped_width -= (width - cropped_width) % 2
        cropped_height -= (height - cropped_height) % 2
    x, y = (width - cropped_width) // 2, (height - cropped_height) // 2
    return Window(x, y, max(cropped_width, 1), max(cropped_height, 1))


def horizon_angle(x0: float, y0: float, x1: float, y1: float) -> float:
    """Degrees to straighten by so that a line becomes level, or upright where it is nearer to that.

    Parameters
    ----------
    x0 : column where the line starts
    y0 : row where the line starts
    x1 : column where the line ends
    y1 : row where the line ends

    Returns
    -------
    Degrees clockwise, -45 to 45.
    """
    drawn = math.degrees(math.atan2(y1 - y0, x1 - x0))
    off = (drawn + 45) % 90 - 45
    return -off
