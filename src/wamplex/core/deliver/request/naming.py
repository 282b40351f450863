"""Which file name a result gets; an existing file is never replaced."""

from __future__ import annotations

import ctypes
import errno
import os
import re
from datetime import date
from pathlib import Path

from wamplex.core.base.atomic_files import discard
from wamplex.core.base.errors import DeliveryError
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.file_formats import FILE_FORMATS
from wamplex.core.geometry.size import Size
from wamplex.core.model.recipe import Recipe

_AT_FDCWD, _RENAME_NOREPLACE = -100, 1  # linux/fcntl.h, linux/fs.h
_NOT_OFFERED = (errno.EINVAL, errno.ENOSYS, errno.ENOTSUP)
FIELDS = ("name", "factor", "upscaler", "width", "height", "ppi", "print", "date")


def file_name(source: Path, recipe: Recipe, delivery: Delivery, size: Size) -> str:
    """Fill in the name pattern.

    Parameters
    ----------
    source : the source file
    recipe : all decisions about the picture
    delivery : kind of file, folder and name
    size : size of the result

    Returns
    -------
    File name with the suffix of the format.

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
        "print": f"{size.width_mm / 10:.0f}x{size.height_mm / 10:.0f}cm",
        "date": date.today().isoformat(),
    }

    def fill(match: re.Match[str]) -> str:
        if match[1] not in values:
            field_list = ", ".join("{" + f + "}" for f in FIELDS)
            raise DeliveryError(f"The name pattern has an unknown field {{{match[1]}}}. Known are {field_list}.")
        return values[match[1]]

    stem = re.sub(r"\{(\w*)\}", fill, delivery.name_pattern).strip()
    if not stem or "/" in stem or "\0" in stem or stem in (".", ".."):
        raise DeliveryError(f"The name pattern gives “{stem}”, which is not a file name. Use for example {{name}}.")
    return stem + (delivery.suffix or FILE_FORMATS[delivery.format].suffix)


def planned_path(source: Path, recipe: Recipe, delivery: Delivery, size: Size) -> Path:
    """Path of the file to be written, if it is free.

    Parameters
    ----------
    source : the source file
    recipe : all decisions about the picture
    delivery : kind of file, folder and name
    size : size of the result

    Returns
    -------
    The path.
    """
    folder = delivery.folder or source.parent
    if delivery.subfolder is not None:
        if delivery.subfolder.strip() in ("", ".", ".."):
            raise DeliveryError(f"“{delivery.subfolder}” is not a folder name.")
        folder = folder / delivery.subfolder
    return folder / file_name(source, recipe, delivery, size)


def free_path(target: Path) -> Path:
    """Find a free path: ``target`` or the first free of ``target-2``, ``target-3``, ...

    Parameters
    ----------
    target : the requested path

    Returns
    -------
    The path.
    """
    path, number = target, 2
    while os.path.lexists(path):
        path = target.with_name(f"{target.stem}-{number}{target.suffix}")
        number += 1
    return path


def move_into_place(partial: Path, requested: Path) -> Path:
    """Give a finished file its final name without replacing any file.

    Parameters
    ----------
    partial : finished temporary file
    requested : the requested path

    Returns
    -------
    The path it got.
    """
    while True:
        target = free_path(requested)
        try:
            _rename(partial, target)
        except FileExistsError:
            continue  # the name was taken meanwhile
        return target


def _rename(partial: Path, target: Path) -> None:
    """Move a file to a name that none has; no other file, and no empty one, ever stands there.

    Raises
    ------
    FileExistsError : when one has it
    """
    libc = ctypes.CDLL(None, use_errno=True)
    names = (os.fsencode(partial), os.fsencode(target))
    if hasattr(libc, "renameat2"):
        if libc.renameat2(_AT_FDCWD, names[0], _AT_FDCWD, names[1], _RENAME_NOREPLACE) == 0:
            return
        error = ctypes.get_errno()
        if error not in _NOT_OFFERED:
            raise OSError(error, os.strerror(error), str(target))
    _rename_by_link(partial, target)


def _rename_by_link(partial: Path, target: Path) -> None:
    """The same where renameat2(2) is not offered, as on some network folders."""
    try:
        # A hard link fails when the name was taken meanwhile, where a plain rename would replace.
        os.link(partial, target)
    except FileExistsError:
        raise
    except OSError:
        # Neither is offered: what is left is to look, and to rename in the same moment.
        if os.path.lexists(target):
            raise FileExistsError(errno.EEXIST, os.strerror(errno.EEXIST), str(target)) from None
        os.rename(partial, target)
        return
    try:
        partial.unlink()
    except OSError:
        discard(target)  # one file must not stand in two places
        raise
