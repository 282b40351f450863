"""Makes the samples of one tile of a file: here, or on another machine; the same bytes either way."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Protocol

import numpy as np

from wamplex.core.base.errors import DeliveryError
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.convert import composite, convert, source_profile
from wamplex.core.colour.icc import SRGB, make_grey_profile
from wamplex.core.deliver.request.cmyk_profile import INKS
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.file_description import FileDescription
from wamplex.core.deliver.request.samples import Samples
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.render.plan import Plan


class SampleRenderer(Protocol):
    """Makes tiles, in the order they are asked for."""

    def tiles(
        self,
        planned: Plan,
        delivery: Delivery,
        about: FileDescription,
        places: Sequence[Window],
        progress: Progress,
    ) -> Iterator[Samples]:
        """The samples of each place of the file."""


class LocalSampleRenderer:
    """Makes them in this program, one after the other."""

    def tiles(
        self,
        planned: Plan,
        delivery: Delivery,
        about: FileDescription,
        places: Sequence[Window],
        progress: Progress,
    ) -> Iterator[Samples]:
        """The samples of each place of the file."""
        for place in places:
            yield tile_samples(planned, delivery, about, place, progress)


def tile_samples(
    planned: Plan, delivery: Delivery, about: FileDescription, place: Window, progress: Progress
) -> Samples:
    """One tile as it stands in the file.

    Raises
    ------
    DeliveryError : when the result holds values that are no numbers
    Cancelled : when ``progress`` is cancelled
    """
    pixels = planned.on_sheet.render(place, progress)
    if not np.isfinite(pixels.sum(dtype=np.float64)):  # either kind of no number stays in a sum
        text = "The result holds NaN or infinite values. Nothing was written"
        raise DeliveryError(f"{text}; choose another upscaler.")
    return file_samples(pixels, planned.picture, delivery, about)


def file_samples(pixels: Pixels, picture: Picture, delivery: Delivery, about: FileDescription) -> Samples:
    """Rendered pixels as they stand in the file: profile, alpha and depth of the delivery.

    Parameters
    ----------
    pixels : (h, w, C) float32 in 0..1 from `render`; may be overwritten

    Returns
    -------
    (h, w, about.channels) uint8 or uint16
    """
    if about.linear is not None:
        return about.linear.samples(pixels, picture)
    separated = about.channels == INKS and not about.alpha
    grey_as_three = not separated and about.channels - about.alpha > picture.pixels.shape[2]
    if separated:
        assert about.profile is not None
        opaque = composite(pixels, picture.ground)
        pixels = convert(opaque, source_profile(picture), about.profile, intent=delivery.intent)
    elif delivery.profile != "source" and about.profile is not None and not grey_as_three:
        pixels = convert(pixels, source_profile(picture), about.profile)
    if not about.alpha and not separated:
        pixels = composite(pixels, picture.ground)
    if grey_as_three:
        pixels = _threefold(pixels, picture)
    largest = np.float32(65535 if about.depth == 16 else 255)
    scaled = np.rint(np.multiply(pixels, largest, out=pixels), out=pixels)
    return scaled.astype(np.uint16) if about.depth == 16 else scaled.astype(np.uint8)


def _threefold(pixels: Pixels, picture: Picture) -> Pixels:
    """Grey in sRGB as three equal channels, alpha last."""
    if picture.profile is not None:
        pixels = convert(pixels, picture.profile, make_grey_profile(SRGB))
    return np.concatenate([np.repeat(pixels[..., :1], 3, axis=2), pixels[..., 1:]], axis=2)
