"""A guest's pixels where the picture's framing and size have them."""

from __future__ import annotations

import base64
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.errors import RecipeError
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.convert import convert, source_profile
from wamplex.core.geometry.framing import oriented_placement
from wamplex.core.geometry.placement import Placement
from wamplex.core.guests.guest import Guest
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.recipe import Recipe
from wamplex.core.upscale.stages.kernels import CATMULL_ROM
from wamplex.core.upscale.stages.rotation import RotationStage, rotation_placement
from wamplex.core.upscale.stages.stage import ChannelLayout, Stage, channel_layout

# Steps of less than this in a placement are rounding.
_ROUNDING = 1e-9


def guest_stage(picture: Picture, recipe: Recipe, guest: Guest) -> Stage:
    """The guest framed, moved to where it fits, and at the recipe's size.

    Raises
    ------
    RecipeError : when the guest belongs to a picture of another size
    """
    note = guest.note
    if (picture.width, picture.height) != (note.source_width, note.source_height):
        raise RecipeError(
            f"The guest {guest.name} was taken in for a picture of {note.source_width} × "
            f"{note.source_height} px, and this one has {picture.width} × {picture.height}."
        )
    framing, size = recipe.framing, recipe.size(picture.width, picture.height)
    result = (size.width_px, size.height_px)
    turned = framing.turned_size(picture.width, picture.height)
    crop = framing.window(picture.width, picture.height)
    in_turned = rotation_placement(turned, framing.straighten_deg, crop, turned, result)
    in_source = in_turned.then(oriented_placement(framing, picture.width, picture.height).inverse)
    placement = in_source.then(Placement.translation(-note.right, -note.down))
    place = placement.then(Placement.scaling(note.width / picture.width, note.height / picture.height))
    own = GuestStage(guest, picture)
    if _is_plain(place) and result == (own.width, own.height):
        return own
    return RotationStage(own, place, *result, CATMULL_ROM)


class GuestStage:
    """The guest as it is, in the picture's profile and with the picture's channels."""

    origin = (0.0, 0.0)

    def __init__(self, guest: Guest, picture: Picture) -> None:
        self.width, self.height = guest.note.width, guest.note.height
        self.scale = guest.note.width / picture.width
        self.layout: ChannelLayout = channel_layout(picture)
        self._colours = picture.pixels.shape[2]
        self._path = guest.path
        self._name = guest.name
        self._into = source_profile(picture)
        own = guest.note.profile
        self._profile = None if own is None else base64.b64decode(own)

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window, opaque."""
        progress.check()
        try:
            stored = _open_stored(self._path, self._path.stat().st_mtime_ns)
        except (OSError, ValueError) as error:
            raise RecipeError(f"The pixels of the guest {self._name} are missing. Add its file again.") from error
        part = stored[window.y : window.bottom, window.x : window.right]
        pixels: Pixels = part.astype(np.float32) / np.float32(65535)
        stored_picture = Picture(pixels, profile=self._profile)
        if pixels.shape[2] == self._colours:
            pixels = convert(pixels, source_profile(stored_picture), self._into)
        else:
            pixels = self._spread(stored_picture)
        if self.layout.endswith("+a"):
            pixels = np.concatenate([pixels, np.ones((*pixels.shape[:2], 1), np.float32)], axis=2)
        return pixels

    def _spread(self, grey: Picture) -> Pixels:
        """A grey guest of a picture in colour."""
        plain = Picture(grey.pixels)
        level = convert(grey.pixels, source_profile(grey), source_profile(plain))
        colour = np.repeat(level, 3, axis=2)
        return convert(colour, source_profile(Picture(colour)), self._into)


@lru_cache(maxsize=8)
def _open_stored(path: Path, changed: int) -> NDArray[np.uint16]:
    """The file as an array: only what is looked at is read."""
    stored: NDArray[np.uint16] = np.load(path, mmap_mode="r", allow_pickle=False)
    return stored


def _is_plain(place: Placement) -> bool:
    plain = Placement()
    names = ("xx", "xy", "x0", "yx", "yy", "y0")
    return all(abs(getattr(place, n) - getattr(plain, n)) < _ROUNDING for n in names)
