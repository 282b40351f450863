"""Thumbnails in the user's cache (freedesktop.org specification).

Freedesktop.org, "Thumbnail Managing Standard", version 0.9.0 (2020): PNG files of at most 256 pixels a side
in ``thumbnails/large``, named by the MD5 of the file's URI, valid while ``Thumb::MTime`` is the file's.
"""

from __future__ import annotations

import hashlib
import os
from contextlib import suppress
from pathlib import Path

import numpy as np
import pyvips
from numpy.typing import NDArray
from platformdirs import user_cache_path

from wamplex.core.base.atomic_files import write_atomically
from wamplex.core.model.source import Source

SIDE_PX = 256
_TEXT = "png-comment-{place}-Thumb::{key}"


def load_thumbnail(source: Source) -> NDArray[np.uint8] | None:
    """The small picture of a file, (h, w, 3) uint8, where one of this very file is kept."""
    try:
        image = pyvips.Image.new_from_file(str(_path(source)), access="sequential")
        texts = {name.partition("Thumb::")[2]: image.get(name) for name in image.get_fields() if "Thumb::" in name}
        if texts.get("URI") != _uri(source) or texts.get("MTime") != _mtime(source):
            return None
        if image.bands != 3 or image.format != "uchar" or max(image.width, image.height) > SIDE_PX:
            return None
        pixels: NDArray[np.uint8] = image.numpy()
        return pixels
    except (pyvips.Error, OSError, ValueError):
        return None


def save_thumbnail(source: Source, pixels: NDArray[np.uint8]) -> None:
    """Keep a small picture, (h, w, 3) uint8; that it cannot be kept is no reason to stop."""
    path = _path(source)
    if path.parent in source.path.parents:
        return  # thumbnails get none themselves
    image = pyvips.Image.new_from_array(pixels).copy(interpretation="srgb")
    for place, (key, text) in enumerate((("URI", _uri(source)), ("MTime", _mtime(source)))):
        image.set_type(pyvips.GValue.gstr_type, _TEXT.format(place=place, key=key), text)
    with suppress(pyvips.Error, OSError):
        path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        write_atomically(path, image.write_to_buffer(".png"), durable=False)
        os.chmod(path, 0o600)


def shrink_thumbnail(pixels: NDArray[np.uint8], side_px: int = SIDE_PX) -> NDArray[np.uint8]:
    """A small picture from a larger one, by averaging."""
    height, width = pixels.shape[:2]
    if max(height, width) <= side_px:
        return pixels
    image = pyvips.Image.new_from_array(np.ascontiguousarray(pixels))
    small: NDArray[np.uint8] = image.thumbnail_image(side_px, height=side_px, size="down").numpy()
    return small


def _path(source: Source) -> Path:
    name = hashlib.md5(_uri(source).encode(), usedforsecurity=False).hexdigest()
    return user_cache_path() / "thumbnails" / "large" / f"{name}.png"


def _uri(source: Source) -> str:
    return source.path.absolute().as_uri()


def _mtime(source: Source) -> str:
    return str(source.mtime_ns // 1_000_000_000)
