"""Converts pixels from one profile to another (LittleCMS, through libvips)."""

from __future__ import annotations

from typing import Literal

import numpy as np
import pyvips

from wamplex.core.base.errors import DeliveryError
from wamplex.core.colour.icc import (
    ADOBE_RGB,
    DISPLAY_P3,
    SRGB,
    ProfileChoice,
    make_grey_profile,
    make_profile,
)
from wamplex.core.model.picture import Picture, Pixels

RenderingIntent = Literal["relative", "perceptual"]  # ICC.1:2022, 6.2
_SPACES = {"srgb": SRGB, "adobe-rgb": ADOBE_RGB, "display-p3": DISPLAY_P3}


def source_profile(picture: Picture) -> bytes:
    """The picture's ICC profile; without one, that of sRGB or its grey.

    Parameters
    ----------
    picture : the decoded picture

    Returns
    -------
    ICC profile.
    """
    if picture.profile is not None:
        return picture.profile
    return make_profile(SRGB) if picture.pixels.shape[2] == 3 else make_grey_profile(SRGB)


def delivery_profile(picture: Picture, choice: ProfileChoice) -> bytes | None:
    """The ICC profile of the delivered file.

    Parameters
    ----------
    picture : the decoded picture
    choice : the profile that is chosen

    Returns
    -------
    ICC profile; None where neither the source nor the file has one.
    """
    if choice == "source":
        return picture.profile
    if picture.pixels.shape[2] == 1:
        return make_grey_profile(_SPACES[choice])
    return make_profile(_SPACES[choice])


def convert(
    pixels: Pixels,
    source: bytes,
    target: bytes,
    by_way_of: bytes | None = None,
    intent: RenderingIntent = "relative",
    *,
    paper: bool = False,
) -> Pixels:
    """Pixels in another profile, with black point compensation.

    Parameters
    ----------
    pixels : (H, W, C) float32 in 0..1, C is 1 or 3, with one more channel for alpha
    source, target : ICC profiles; that of the target may be for four inks
    by_way_of : profile of any device, whose colours are left as it can make them
    intent : how they are brought into its gamut
    paper : show its white as its paper has it, and its black as its inks have it (ICC-absolute
        colorimetric), instead of the target's

    Returns
    -------
    float32 in 0..1, with the target's channels; alpha is handed through
    """
    if source == target and by_way_of is None:
        return pixels
    colours = 1 if pixels.shape[2] < 3 else 3
    text = np.round(pixels[..., :colours] * 65535).astype(np.uint16)
    image = pyvips.Image.new_from_array(np.ascontiguousarray(text))
    image = image.copy(interpretation="rgb16" if colours == 3 else "grey16")
    try:
        if by_way_of is not None:
            image, source = _transformed(image, source, by_way_of, intent), by_way_of
        shown = "absolute" if paper else "relative"
        image = _transformed(image, source, target, intent if by_way_of is None else shown)
        converted = np.ndarray(
            buffer=image.write_to_memory(), dtype=np.uint16, shape=(image.height, image.width, image.bands)
        )
    except pyvips.Error as error:
        raise DeliveryError(
            "The picture's colour profile cannot be converted. Deliver with the profile “as the source”."
        ) from error
    result = converted.astype(np.float32) / np.float32(65535)
    if pixels.shape[2] > colours:
        result = np.concatenate([result, pixels[..., colours:]], axis=2)
    return result


def _transformed(image: pyvips.Image, source: bytes, target: bytes, intent: str) -> pyvips.Image:
    # By way of Lab, with each profile attached in turn: libvips would take a target profile only as
    # a file, and it remembers files by name.
    black = intent != "absolute"
    lab = _with_profile(image, source).icc_import(intent=intent, black_point_compensation=black)
    return _with_profile(lab, target).icc_export(depth=16, intent=intent, black_point_compensation=black)


def _with_profile(image: pyvips.Image, profile: bytes) -> pyvips.Image:
    image = image.copy()
    image.set_type(pyvips.GValue.blob_type, "icc-profile-data", profile)
    return image


def to_srgb(pixels: Pixels, picture: Picture) -> Pixels:
    """Pixels in sRGB, for measuring: (H, W, 3), or (H, W, 4) with alpha.

    What is shown is converted by `convert_for_screen`.

    Parameters
    ----------
    pixels : (H, W, C) float32 in 0..1
    picture : the decoded picture

    Returns
    -------
    float32 in 0..1, encoded as IEC 61966-2-1.
    """
    if picture.profile is not None:
        target = make_profile(SRGB) if picture.pixels.shape[2] == 3 else make_grey_profile(SRGB)
        pixels = convert(pixels, picture.profile, target)
    if picture.pixels.shape[2] == 1:
        pixels = np.concatenate([np.repeat(pixels[..., :1], 3, axis=2), pixels[..., 1:]], axis=2)
    return pixels


def to_srgb_on_ground(pixels: Pixels, picture: Picture) -> Pixels:
    """Pixels in sRGB on the picture's ground, for measuring: (H, W, 3).

    Parameters
    ----------
    pixels : (H, W, C) float32 in 0..1
    picture : the decoded picture

    Returns
    -------
    float32 in 0..1, encoded as IEC 61966-2-1.
    """
    return composite(to_srgb(pixels, picture), picture.ground)


def composite(pixels: Pixels, ground: float) -> Pixels:
    """Composite pixels on a ground; pixels without alpha stay.

    Parameters
    ----------
    pixels : (H, W, C) float32 in 0..1; of 2 or 4 channels the last is alpha
    ground : 0 black to 1 white

    Returns
    -------
    (H, W, C) float32 in 0..1.
    """
    if pixels.shape[2] in (1, 3):
        return pixels
    alpha = pixels[..., -1:]
    return pixels[..., :-1] * alpha + np.float32(ground) * (1 - alpha)
