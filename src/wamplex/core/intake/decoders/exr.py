"""OpenEXR: linear light, encoded with the tone curve of sRGB."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wamplex.core.colour.icc import linear_to_srgb
from wamplex.core.intake.decoders.image_file import ImageFile, NotDecodableError, image_from_array

_NOTICE = "OpenEXR holds linear light. It was encoded with the sRGB curve; values brighter than white were clipped."


def open_exr(path: Path) -> ImageFile:
    """Read the header of the first part.

    Raises
    ------
    NotDecodableError : when it cannot be read, or holds no red, green and blue, nor luminance
    """
    import OpenEXR

    try:
        with OpenEXR.File(str(path), header_only=True) as file:
            header = file.header()
            window = header["dataWindow"]
            names = {channel.name for channel in header["channels"]}
    except Exception as error:
        raise NotDecodableError(str(error)) from error
    (left, top), (right, bottom) = (tuple(int(v) for v in corner) for corner in window)
    used = _used(names)
    return ImageFile(
        width=right - left + 1,
        height=bottom - top + 1,
        depth=16,
        colour="grey" if "Y" in used else "RGB",
        alpha="A" in used,
        image=lambda: image_from_array(_pixels(path, used)),
        notices=(_NOTICE,),
    )


def _used(names: set[str]) -> tuple[str, ...]:
    for channels in (("R", "G", "B"), ("Y",)):
        if names.issuperset(channels):
            return (*channels, "A") if "A" in names else channels
    raise NotDecodableError("it holds no red, green and blue, but " + ", ".join(sorted(names)[:6]))


def _pixels(path: Path, used: tuple[str, ...]) -> NDArray[Any]:
    import OpenEXR

    try:
        with OpenEXR.File(str(path), separate_channels=True) as file:
            planes = [np.asarray(file.channels()[name].pixels, np.float32) for name in used]
    except Exception as error:
        raise NotDecodableError(str(error)) from error
    if len({plane.shape for plane in planes}) != 1:
        raise NotDecodableError("its channels have different sizes")
    linear = np.nan_to_num(np.stack(planes, axis=-1), nan=0.0, posinf=1.0, neginf=0.0)
    colours = linear.shape[2] - (used[-1] == "A")
    if used[-1] == "A":  # colours come premultiplied (OpenEXR, Technical Introduction)
        opaque = np.clip(linear[..., -1:], 0, 1)
        linear[..., :-1] /= np.where(opaque > 0, opaque, 1)
    linear = np.clip(linear, 0, 1)
    linear[..., :colours] = linear_to_srgb(linear[..., :colours].astype(np.float64))
    return np.rint(linear * 65535).astype(np.uint16)
