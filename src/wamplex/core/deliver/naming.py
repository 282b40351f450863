"""Which file name a result gets; an existing file is never replaced."""

from __future__ import annotations

import os
import re
from pathlib import Path

from wamplex.core.deliver.delivery import Delivery
from wamplex.core.errors import DeliveryError
from wamplex.core.geometry.size import Size
from wamplex.core.recipe import Recipe

SUFFIXES = {"tiff": ".tif", "png": ".png", "jpeg": ".jpg"}
_FIELDS = ("name", "factor", "upscaler", "width", "height", "ppi")


def file_name(source: Path, recipe: Recipe, delivery: Delivery, size: Size) -> str:
    """The name the pattern gives, with the format's suffix.

    Raises
    ------
    DeliveryError : when the pattern has an unknown field or gives no usable name
    """
    values = {
        "name": source.stem,
        "factor": f"{size.factor:.4g}",
        "upscaler": recipe.upscaler,
        "width": str(size.width_px),
        "height": str(size.height_px),
        "ppi": f"{size.density_ppi:g}",
    }

    def fill(match: re.Match[str]) -> str:
        if match[1] not in values:
            known = ", ".join("{" + f + "}" for f in _FIELDS)
            raise DeliveryError(f"The name pattern has an unknown field {{{match[1]}}}. Known are {known}.")
        return values[match[1]]

    stem = re.sub(r"\{(\w*)\}", fill, delivery.name_pattern).strip()
    if not stem or "/" in stem or "\0" in stem or stem in (".", ".."):
        raise DeliveryError(
            f"The name pattern gives “{stem}”, which is no file name. Use for example {{name}}."
        )
    return stem + SUFFIXES[delivery.format]


def planned_path(source: Path, recipe: Recipe, delivery: Delivery, size: Size) -> Path:
    """Where the file goes if nothing has that name yet."""
    folder = delivery.folder or source.parent
    return folder / file_name(source, recipe, delivery, size)


def free_path(wanted: Path) -> Path:
    """``wanted``, or the first of ``wanted-2``, ``wanted-3``, ... that no file has."""
    path, number = wanted, 2
    while os.path.lexists(path):
        path = wanted.with_name(f"{wanted.stem}-{number}{wanted.suffix}")
        number += 1
    return path


def move_into_place(partial: Path, wanted: Path) -> Path:
    """Give a finished file its final name, never that of an existing one; returns the name it got."""
    while True:
        target = free_path(wanted)
        try:
            # A hard link fails when the name was taken meanwhile, where a rename would replace.
            os.link(partial, target)
        except FileExistsError:
            continue
        except OSError:
            # No hard links on this file system (a memory card): claim the name, then rename over it.
            try:
                os.close(os.open(target, os.O_CREAT | os.O_EXCL))
            except FileExistsError:
                continue
            os.replace(partial, target)
            return target
        partial.unlink()
        return target
