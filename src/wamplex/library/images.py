"""Arrays and Pillow images become pictures, and results the kind of image that was given."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from wamplex.core.base.errors import ImageKindError
from wamplex.core.model.picture import Picture, Pixels

Restore = Callable[[Pixels], Any]
_WHOLE = {np.dtype(np.uint8): 255, np.dtype(np.uint16): 65535}
_FLOATS = (np.dtype(np.float32), np.dtype(np.float64))
_KINDS = "NumPy arrays (uint8, uint16, float32 or float64), Pillow images, and what wamplex.open returns"


def to_picture(image: Any) -> tuple[Picture, Restore]:
    """The picture of an image, and how its results become the same kind of image.

    Parameters
    ----------
    image : array of (H, W), (H, W, 1), (H, W, 3) or (H, W, 4), a Pillow image, or a `Picture`

    Returns
    -------
    Picture, and a function from (H, W, C) float32 pixels in 0..1.

    Raises
    ------
    ImageKindError : when it is none of these, or holds no pixels
    """
    if isinstance(image, Picture):
        return image, lambda pixels: _as_result(image, pixels)
    if isinstance(image, Image.Image):
        return _from_pillow(image)
    if isinstance(image, np.ndarray):
        return _from_array(image)
    raise ImageKindError(f"“{type(image).__name__}” is no image. Give {_KINDS}.")


def _from_array(array: NDArray[Any]) -> tuple[Picture, Restore]:
    dtype, shape = array.dtype, array.shape
    if dtype not in _WHOLE and dtype not in _FLOATS:
        raise ImageKindError(f"An array of {dtype} is no image. Give {_KINDS}.")
    if array.ndim not in (2, 3) or (array.ndim == 3 and shape[2] not in (1, 3, 4)) or 0 in shape:
        raise ImageKindError(f"An array of shape {shape} is no image: it must be (H, W), or (H, W, 1, 3 or 4).")
    whole = _WHOLE.get(dtype)
    levels = array.reshape(*shape[:2], -1).astype(np.float32)
    if whole is not None:
        levels = levels / np.float32(whole)
    elif not (np.isfinite(levels).all() and levels.min() >= 0 and levels.max() <= 1):
        raise ImageKindError("Floats must lie in 0 to 1, black to white.")
    colour, alpha = _without_alpha(levels, levels.shape[2] == 4)
    picture = Picture(colour, alpha=alpha, depth=8 if whole == 255 else 16)

    def restore(pixels: Pixels) -> NDArray[Any]:
        result = pixels.astype(dtype) if whole is None else np.rint(pixels * whole).astype(dtype)
        return result[..., 0] if array.ndim == 2 else result

    return picture, restore


def _from_pillow(image: Image.Image) -> tuple[Picture, Restore]:
    mode = image.mode
    if mode.startswith(("I", "F")):
        raise ImageKindError(f"Pillow's mode {mode} has no agreed range. Give an array instead.")
    if mode not in ("L", "RGB", "RGBA"):
        transparent = mode in ("LA", "PA") or "transparency" in image.info
        mode = "RGBA" if transparent else "L" if mode == "1" else "RGB"
    profile = image.info.get("icc_profile")
    whole, restore_array = _from_array(np.asarray(image.convert(mode)))
    picture = replace(whole, profile=profile)

    def restore(pixels: Pixels) -> Image.Image:
        result = Image.fromarray(restore_array(pixels))
        if profile:
            result.info["icc_profile"] = profile
        return result

    return picture, restore


def _as_result(source: Picture, pixels: Pixels) -> Picture:
    """A picture with the profile of its source; it comes from no file."""
    colour, alpha = _without_alpha(pixels, source.alpha is not None)
    return replace(source, pixels=colour, alpha=alpha, source=None, file_start=b"", raw=None, notices=())


def _without_alpha(pixels: Pixels, has_alpha: bool) -> tuple[Pixels, Pixels | None]:
    """Colour, and the last channel where it is alpha."""
    if not has_alpha:
        return np.ascontiguousarray(pixels), None
    return np.ascontiguousarray(pixels[..., :-1]), pixels[..., -1]
