"""Linear light for files that are to be developed elsewhere: a camera's colours, or the source's own."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wamplex.core.base.array_types import Matrix
from wamplex.core.base.errors import DeliveryError
from wamplex.core.colour.convert import composite, convert, source_profile
from wamplex.core.colour.icc import BT2020, SRGB, linear_profile, make_profile, read_primaries
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.samples import Samples
from wamplex.core.model.development import Development
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.raw_file import Triple
from wamplex.core.model.recipe import Recipe
from wamplex.core.raw.camera_colours import white_balance_gains
from wamplex.core.raw.tone_curve import srgb_decode

_D50_K = 5003.0


@dataclass(frozen=True, eq=False)
class LinearColours:
    """What a file of linear light says of its colours.

    Attributes
    ----------
    matrices : from CIE XYZ to these colours, each under a light of so many kelvin
    neutral : what white looks like in them
    exposure_ev : brighter by so many stops when it is developed
    scale : of red, green and blue of a raw file's result, to what the camera records; None for other pictures
    profile : of linear light with the primaries of the picture, where it is no raw file
    """

    matrices: tuple[tuple[float, Matrix], ...]
    neutral: Triple
    exposure_ev: float = 0.0
    scale: Triple | None = None
    profile: bytes | None = None

    def samples(self, pixels: Pixels, picture: Picture) -> Samples:
        """Rendered pixels as linear light: (h, w, 3) uint16, 65535 being white."""
        if self.scale is not None:
            linear = srgb_decode(pixels[..., :3]) * np.asarray(self.scale, np.float32)
        else:
            assert self.profile is not None
            linear = convert(_opaque(pixels, picture), _colour_profile(picture), self.profile)
        samples16: Samples = np.rint(np.clip(linear, 0, 1) * np.float32(65535)).astype(np.uint16)
        return samples16


def linear_recipe(picture: Picture, recipe: Recipe, delivery: Delivery) -> Recipe:
    """The recipe as a file of linear light has it: developed no further than to the camera's colours.

    Raises
    ------
    DeliveryError : when there is to be something around the picture, or the print is to be divided
    """
    if recipe.sheet is not None or delivery.pages is not None:
        raise DeliveryError("A DNG cannot hold a sheet. Remove the sheet, or choose TIFF.")
    if picture.raw is None:
        return recipe
    return recipe.replace(development=(recipe.development or Development()).replace(linear=True))


def linear_colours(picture: Picture, recipe: Recipe) -> LinearColours:
    """The colours of the file: the camera's, or those of the picture's own primaries."""
    raw, development = picture.raw, recipe.development or Development()
    if raw is not None:
        gains = white_balance_gains(raw, development)
        red, green, blue = (max(gains) / gain for gain in gains)
        neutral = (1 / gains[0], 1.0, 1 / gains[2])
        return LinearColours(raw.colours.matrices, neutral, development.exposure_ev, scale=(red, green, blue))
    source_primaries = read_primaries(_colour_profile(picture))
    primaries = read_primaries(make_profile(BT2020)) if source_primaries is None else source_primaries
    assert primaries is not None
    from_xyz = np.asarray(np.linalg.inv(primaries), np.float64)
    return LinearColours(((_D50_K, from_xyz),), (1.0, 1.0, 1.0), profile=linear_profile(primaries))


def _colour_profile(picture: Picture) -> bytes:
    """A grey picture becomes one of three equal colours, in sRGB."""
    return source_profile(picture) if picture.pixels.shape[2] == 3 else make_profile(SRGB)


def _opaque(pixels: Pixels, picture: Picture) -> Pixels:
    """On white paper, in three colours."""
    pixels = composite(pixels, picture.ground)
    return pixels if pixels.shape[2] == 3 else np.repeat(pixels, 3, axis=2)
