"""Applies the framing to pictures: orientation, straightening, crop."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.lazy_imports import cv2
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.geometry.framing import Framing
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.upscale.stages.kernels import BILINEAR, CATMULL_ROM
from wamplex.core.upscale.stages.rotation import RotationStage, rotation_placement
from wamplex.core.upscale.stages.stage import SourceStage


def orient_pixels(picture: Picture, framing: Framing) -> Picture:
    """The picture after quarter turns and flip: the same pixels in another order, none copied.

    Parameters
    ----------
    picture : the decoded picture
    framing : rotation, straightening and crop

    Returns
    -------
    Of the turned size; pixels and alpha are views of those of ``picture``.
    """
    if framing.turns == 0 and not framing.flipped:
        return picture
    alpha = None if picture.alpha is None else _turned(picture.alpha, framing)
    return replace(picture, pixels=_turned(picture.pixels, framing), alpha=alpha)


def frame_picture(picture: Picture, framing: Framing) -> Picture:
    """Apply a framing at the picture's scale; see `frame_part`.

    Parameters
    ----------
    picture : the decoded picture
    framing : rotation, straightening and crop

    Returns
    -------
    A picture of the cropped size, in the same profile, with alpha.
    """
    crop = framing.window(picture.width, picture.height)
    if framing.straighten_deg == 0 and crop == Window(0, 0, *framing.turned_size(picture.width, picture.height)):
        return orient_pixels(picture, framing)
    return frame_part(picture, framing, Window(0, 0, crop.width, crop.height))


def frame_part(picture: Picture, framing: Framing, window: Window) -> Picture:
    """A part of what a framing leaves of a picture, at its own scale.

    Exact copies of pixels; only where it is straightened they are resampled with Catmull-Rom. This is what
    readings and known answers compare with; results are made from the picture itself.

    Parameters
    ----------
    picture : the decoded picture
    framing : rotation, straightening and crop
    window : in pixels of what is left

    Returns
    -------
    ``window.height`` rows and ``window.width`` columns, float32 in 0..1.
    """
    upright = orient_pixels(picture, framing)
    crop = framing.window(picture.width, picture.height)
    if framing.straighten_deg == 0:
        rows = slice(crop.y + window.y, crop.y + window.bottom)
        columns = slice(crop.x + window.x, crop.x + window.right)
        alpha = None if upright.alpha is None else upright.alpha[rows, columns]
        return replace(upright, pixels=upright.pixels[rows, columns], alpha=alpha)
    size = (upright.width, upright.height)
    place = rotation_placement(size, framing.straighten_deg, crop, size, (crop.width, crop.height))
    stage = RotationStage(SourceStage(upright), place, crop.width, crop.height, CATMULL_ROM)
    pixels = np.clip(stage.render(window, Progress()), 0, 1)
    if upright.alpha is None:
        return replace(upright, pixels=pixels)
    colour, alpha = unpremultiply(pixels)
    return replace(upright, pixels=colour, alpha=alpha)


def frame_small(picture: Picture, framing: Framing, side: int) -> Pixels:
    """What a framing leaves, at most ``side`` pixels a side: (h, w, C), alpha last and not multiplied in.

    Parameters
    ----------
    picture : the decoded picture
    framing : rotation, straightening and crop
    side : longest side, in pixels

    Returns
    -------
    (h, w, C) float32 in 0..1 with ``max(h, w) <= side``.
    """
    crop = framing.window(picture.width, picture.height)
    scale = min(1.0, side / max(crop.width, crop.height))
    size = tuple(max(1, round(n * scale)) for n in (picture.width, picture.height))
    shrunk = replace(
        picture,
        pixels=_resized(picture.pixels, size),
        alpha=None if picture.alpha is None else _resized(picture.alpha, size)[..., 0],
    )
    return frame_view(shrunk, framing, picture.width, picture.height, side)


def frame_view(small: Picture, framing: Framing, width: int, height: int, side: int) -> Pixels:
    """The same from a reduction of a picture that is ``width`` by ``height`` itself.

    Parameters
    ----------
    small : the picture, reduced
    framing : rotation, straightening and crop
    width : columns of the full picture
    height : rows of the full picture
    side : longest side, in pixels

    Returns
    -------
    (h, w, C) float32 in 0..1 with ``max(h, w) <= side``.
    """
    crop = framing.window(width, height)
    scale = min(1.0, side / max(crop.width, crop.height))
    upright = orient_pixels(small, framing)
    across, down = (max(1, round(n * scale)) for n in (crop.width, crop.height))
    turned_size, sizes = framing.turned_size(width, height), ((upright.width, upright.height), (across, down))
    place = rotation_placement(turned_size, framing.straighten_deg, crop, *sizes)
    stage = RotationStage(SourceStage(upright), place, across, down, BILINEAR)
    pixels = np.clip(stage.render(Window(0, 0, across, down), Progress()), 0, 1)
    if small.alpha is None:
        return pixels
    colour, alpha = unpremultiply(pixels)
    return np.concatenate([colour, alpha[..., np.newaxis]], axis=2)


def frame_thumbnail(thumbnail: NDArray[np.uint8], framing: Framing, width: int, height: int) -> NDArray[np.uint8]:
    """A thumbnail (h, w, 3) of a picture of these dimensions, as the framing leaves it.

    Parameters
    ----------
    thumbnail : (h, w, 3) uint8
    framing : rotation, straightening and crop
    width : columns of the full picture
    height : rows of the full picture

    Returns
    -------
    (h, w, 3) uint8, its longer side at most that of ``thumbnail``.
    """
    if framing == Framing():
        return thumbnail
    small = Picture(thumbnail.astype(np.float32) / np.float32(255))
    pixels = frame_view(small, framing, width, height, max(thumbnail.shape[:2]))
    result: NDArray[np.uint8] = np.rint(pixels * np.float32(255)).astype(np.uint8)
    return result


def _resized(plane: Pixels, size: tuple[int, ...]) -> Pixels:
    result = cv2.resize(np.ascontiguousarray(plane), size, interpolation=cv2.INTER_AREA)
    return np.asarray(result, np.float32).reshape(size[1], size[0], -1)


# Least share of alpha by which colour is divided; below it a pixel is invisible at 16 bits.
_LEAST_ALPHA = 0.5 / 65535


def unpremultiply(pixels: Pixels) -> tuple[Pixels, Pixels]:
    """Divide colour by alpha.

    Parameters
    ----------
    pixels : (H, W, C + 1) float32, colour multiplied by alpha

    Returns
    -------
    Colour (h, w, C) and alpha (h, w), float32 in 0..1.
    """
    alpha = np.clip(pixels[..., -1:], 0.0, 1.0)
    colour = np.clip(pixels[..., :-1] / np.maximum(alpha, _LEAST_ALPHA), 0.0, 1.0)
    return np.where(alpha >= _LEAST_ALPHA, colour, 0.0), alpha[..., 0]


def _turned(plane: Pixels, framing: Framing) -> Pixels:
    rotated = np.rot90(plane, -framing.turns)
    return rotated[:, ::-1] if framing.flipped else rotated
