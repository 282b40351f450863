"""Whether a picture has only a palette's colours, from its file and from its pixels."""

from __future__ import annotations

import struct
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.array_types import Rgb8
from wamplex.core.base.lazy_imports import cv2

_MOST_COLOURS, _MOST_GREYS = 256, 64  # a grey picture of 8 bits has no more than 256 anyway
_LEAST_PX = 64 * 64
# Two pixels differ so many times as often as neighbours do: 0.56 to 1.12 with dots, 1.12 to 1.78 without, on four
# photographs at two sizes in 2 to 256 colours.
_MOST_WITH_DOTS, _LEAST_ISOLATED = 1.1, 0.05
_PNG, _GIF = b"\x89PNG\r\n\x1a\n", (b"GIF87a", b"GIF89a")


@dataclass(frozen=True)
class Palette:
    """The few colours that a picture is made of.

    Attributes
    ----------
    colours : how many there are in its pixels
    stated : how many the file's palette holds, None where it has none
    dithered : whether dots of them stand for the tones between
    x, y : a place with many dots, in pixels
    """

    colours: int
    stated: int | None
    dithered: bool
    x: float
    y: float


def measure_palette(pixels: Rgb8, file_start: bytes) -> Palette | None:
    """Count colours; own definition.

    Parameters
    ----------
    pixels : (H, W, 3) uint8, as they are in the file
    file_start : its first bytes

    Returns
    -------
    None where there are too many, or too few pixels to tell.
    """
    if pixels.shape[0] * pixels.shape[1] < _LEAST_PX or min(pixels.shape[:2]) < 3:
        return None
    stated = stated_palette(file_start)
    colours = count_colours(pixels)
    grey = bool((pixels == pixels[..., :1]).all())
    if colours > (_MOST_GREYS if grey else _MOST_COLOURS) or colours < 2:
        return None
    density = cv2.blur(_isolated_pixels(pixels).astype(np.float32), (31, 31))
    y, x = np.unravel_index(int(np.argmax(density)), density.shape)
    return Palette(colours, stated, has_dots(pixels), float(x), float(y))


def stated_palette(file_start: bytes) -> int | None:
    """How many colours the palette of a PNG or GIF holds; None without one.

    Parameters
    ----------
    file_start : first bytes of a file

    Notes
    -----
    W3C PNG specification (third edition), chunk PLTE; GIF89a specification, section 18.
    """
    if file_start.startswith(_GIF) and len(file_start) > 10 and file_start[10] & 0x80:
        return 2 << (file_start[10] & 7)
    at = len(_PNG)
    while file_start.startswith(_PNG) and at + 8 <= len(file_start):
        length, kind = struct.unpack(">I4s", file_start[at : at + 8])
        if kind == b"IHDR" and file_start[at + 17 : at + 18] != b"\x03":  # colour type 3: indexed
            return None
        if kind == b"PLTE":
            return int(length) // 3
        at += int(length) + 12
    return None


def isolated_fraction(pixels: Rgb8) -> float:
    """Share of the pixels that differ from all four neighbours.

    Parameters
    ----------
    pixels : (H, W, 3) uint8

    Returns
    -------
    0 to 1; 0 for pictures without an inside.
    """
    return float(_isolated_pixels(pixels).mean()) if min(pixels.shape[:2]) > 2 else 0.0


def _isolated_pixels(pixels: Rgb8) -> NDArray[np.bool_]:
    across, down = _differs(pixels, 1, axis=1), _differs(pixels, 1, axis=0)
    inner: NDArray[np.bool_] = across[1:-1, :-1] & across[1:-1, 1:] & down[:-1, 1:-1] & down[1:, 1:-1]
    return inner


def has_dots(pixels: Rgb8) -> bool:
    """Whether dots stand for tones: they change from pixel to pixel and come back after two; edges do not.

    Parameters
    ----------
    pixels : (H, W, 3) uint8
    """
    if min(pixels.shape[:2]) < 3:
        return False
    near, far = (float(_differs(pixels, step, axis=1).mean()) for step in (1, 2))
    return far < _MOST_WITH_DOTS * near and isolated_fraction(pixels) > _LEAST_ISOLATED


def _differs(pixels: Rgb8, step: int, axis: int) -> NDArray[np.bool_]:
    """Where a pixel is not the one ``step`` further."""
    first, second = (pixels[:, step:], pixels[:, :-step]) if axis == 1 else (pixels[step:], pixels[:-step])
    differs: NDArray[np.bool_] = (first != second).any(axis=2)
    return differs


def palette_text(palette: Palette) -> tuple[str, str]:
    """The palette in words, and how it is known."""
    value = f"{palette.colours} colours{', dithered' if palette.dithered else ''}"
    reason = "Its pixels have no more."
    if palette.stated is not None:
        reason = f"The file has a palette of {palette.stated}."
    if palette.dithered:
        reason += " Dots stand for the tones between."
    return value, reason


def count_colours(pixels: Rgb8) -> int:
    """How many different colours there are.

    Parameters
    ----------
    pixels : (H, W, 3) uint8
    """
    codes = (pixels[..., 0].astype(np.int32) << 16) | (pixels[..., 1].astype(np.int32) << 8) | pixels[..., 2]
    seen = np.zeros(1 << 24, bool)
    seen[codes.ravel()] = True
    return int(np.count_nonzero(seen))
