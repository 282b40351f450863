"""Finds the recipe in a file."""

from __future__ import annotations

import os
from pathlib import Path
from typing import BinaryIO

from wamplex.core.base.errors import RecipeError, UnreachableFileError, UnreadablePictureError
from wamplex.core.base.regular_files import name_open_errors, open_regular_file
from wamplex.core.intake.decode_errors import DecodingErrors
from wamplex.core.intake.formats import RAW, TIFF_STARTS
from wamplex.core.intake.probe import open_image_file
from wamplex.core.model.recipe import Recipe
from wamplex.core.provenance.xmp import parse_recipe

_XMP_TAG = 700  # XMP part 3, 1.3: in TIFF and DNG


def read_recipe(path: Path) -> tuple[Recipe, dict[str, str]]:
    """Read the recipe inside a picture file.

    Parameters
    ----------
    path : the file

    Returns
    -------
    The recipe, and the other properties of its origin by name.

    Raises
    ------
    UnreadablePictureError : when it is no picture
    RecipeError : when it holds no recipe, or one that was changed
    """
    recipe = parse_recipe(read_xmp(path))
    if recipe is None:
        raise RecipeError(f"{path.name} holds no recipe: Wamplex did not write it, or wrote it without one.")
    return recipe


def read_xmp(path: Path) -> bytes | None:
    """Read the XMP packet of a picture file; nothing is decoded.

    Parameters
    ----------
    path : the file

    Returns
    -------
    The packet; None where there is none.

    Raises
    ------
    UnreadablePictureError : when it is no picture
    UnreachableFileError : when the disk does not let it be read
    """
    # Prints are mostly large TIFFs; what is asked of them lies in their directory, so they are not copied.
    with os.fdopen(open_regular_file(path), "rb") as tiff, name_open_errors(path):
        if tiff.read(4) in TIFF_STARTS:
            return _read_tiff_xmp(tiff, path.name)
    header, file = open_image_file(path)
    if header.kind == RAW:
        return None
    try:
        image = file.image()
        return bytes(image.get("xmp-data")) if image.get_typeof("xmp-data") else None
    except DecodingErrors as error:
        raise UnreadablePictureError(f"{path.name} cannot be read: {error}.") from error


def _read_tiff_xmp(file: BinaryIO, name: str) -> bytes | None:
    import tifffile  # takes a tenth of a second to load, which most starts need not

    try:
        file.seek(0)
        with tifffile.TiffFile(file, name=name) as tiff:
            value = tiff.pages[0].tags.get(_XMP_TAG)
            return None if value is None else bytes(value.value)
    except OSError as error:
        raise UnreachableFileError(f"{name} cannot be read: {(error.strerror or str(error)).lower()}.") from error
    except Exception:  # damaged ones
        return None
