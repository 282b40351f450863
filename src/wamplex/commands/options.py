"""Parses the options of ``wamplex enlarge``."""

from __future__ import annotations

import os
import re
from collections.abc import Iterable
from pathlib import Path
from typing import get_args

from pydantic import ValidationError

from wamplex.core.base.errors import RecipeError
from wamplex.core.colour.convert import RenderingIntent
from wamplex.core.colour.icc import ProfileChoice
from wamplex.core.deliver.request.cmyk_profile import printer_profile
from wamplex.core.deliver.request.delivery import Chroma, Compression, Delivery, MetadataChoice
from wamplex.core.deliver.request.file_formats import FILE_FORMATS, FileFormat, format_of_suffix
from wamplex.core.geometry.framing import MOST_STRAIGHTENING_DEG, Crop, Framing
from wamplex.core.geometry.pages import Pages
from wamplex.core.geometry.paper import PAPERS
from wamplex.core.geometry.sheet import Place, Sheet
from wamplex.core.geometry.size_text import parse_print_size
from wamplex.core.model.upscale_values import Values
from wamplex.core.model.value_table import VALUES, ValueName
from wamplex.core.upscale.upscalers.interface import Upscaler
from wamplex.core.workflow.orders.intent import SizeIntent


def parse_sheet(name: str | None, place: str, margin: float, bleed: float, wrap: float) -> Sheet | None:
    """Parse the options for the sheet; it is rotated to each picture.

    Raises
    ------
    RecipeError, SizeError : with the reason
    """
    if name is None:
        return None
    if place not in get_args(Place):
        raise RecipeError(f"--place cannot be “{place}”. Choose one of: {', '.join(get_args(Place))}.")
    short, long = paper_sides(name)
    sides = {"name": name, "width_mm": long, "height_mm": short, "place": place}
    try:
        return Sheet.model_validate({**sides, "margin_mm": margin, "bleed_mm": bleed, "wrap_mm": wrap})
    except ValidationError as error:
        raise RecipeError(f"The sheet cannot be: {error.errors()[0]['msg']}.") from error


def paper_sides(name: str) -> tuple[float, float]:
    """Shorter and longer side in mm of a paper's name, or of a size such as 60x40cm.

    Raises
    ------
    SizeError : when it is neither
    """
    key = name.lower().replace(" ", "").replace("×", "x")
    for paper in PAPERS:
        if paper.name.lower().replace(" ", "").replace("×", "x") == key:
            return paper.short_mm, paper.long_mm
    short, long = sorted(parse_print_size(name))
    return short, long


def parse_pages(name: str | None) -> Pages | None:
    """The printer's sheet that a print is divided for."""
    if name is None:
        return None
    short, long = paper_sides(name)
    return Pages(width_mm=short, height_mm=long)


def parse_size(
    factor: float | None, width: int | None, print_size: str | None, ppi: float, sheet: Sheet | None
) -> SizeIntent:
    """Parse the options for the size.

    Raises
    ------
    SizeError : when it is said in no way or in several, or is impossible
    """
    print_mm = parse_print_size(print_size) if print_size is not None else None
    intent = SizeIntent(factor=factor, width_px=width, print_mm=print_mm, sheet=sheet, density_ppi=ppi)
    intent.check()
    return intent


def parse_framing(crop: str | None, turn: int, flip: bool, straighten: float, shrink_first: float) -> Framing:
    """Parse the options for the framing.

    Raises
    ------
    RecipeError : with the reason
    """
    crop_frame = None
    if crop is not None:
        match = re.fullmatch(r"(\d{1,7})x(\d{1,7})\+(\d{1,7})\+(\d{1,7})", crop.replace("×", "x"))
        if match is None:
            raise RecipeError(f"--crop cannot be “{crop}”. Write it like 800x600+40+20: width, height, left, top.")
        width, height, x, y = (int(n) for n in match.groups())
        crop_frame = Crop(x=x, y=y, width=max(width, 1), height=max(height, 1))
    if turn not in (0, 90, 180, 270):
        raise RecipeError(f"--turn cannot be {turn}. Choose 90, 180 or 270 degrees.")
    if abs(straighten) > MOST_STRAIGHTENING_DEG:
        raise RecipeError(f"--straighten {straighten:g} is outside -45 to 45 degrees.")
    if not 1 <= shrink_first <= 8:
        raise RecipeError(f"--shrink-first {shrink_first:g} is outside 1 to 8.")
    changes = {"turns": turn // 90, "flipped": flip, "straighten_deg": straighten, "crop": crop_frame}
    return Framing.model_validate({**changes, "shrink_first": shrink_first})


def parse_values(upscaler: Upscaler | None, given: dict[ValueName, object]) -> dict[ValueName, object]:
    """The values asked for, those left out (None or False) not among them.

    Parameters
    ----------
    upscaler : None where each picture's own suggestion is used

    Raises
    ------
    RecipeError : when one is out of range, or the upscaler would not heed it
    """
    given_values = {name: value for name, value in given.items() if value is not None and value is not False}
    for name, value in given_values.items():
        info = VALUES[name]
        if upscaler is not None and name not in upscaler.values:
            raise RecipeError(f"{upscaler.name} has no {info.flag}. Leave it out, or choose another upscaler.")
        try:
            Values.model_validate({name: value})
        except ValidationError as error:
            raise RecipeError(f"{info.flag} {value:g} is outside {info.minimum:g} to {info.maximum:g}.") from error
    return given_values


def parse_delivery(
    where: str | None,
    file_format: str | None,
    depth: int,
    quality: int,
    profile: str,
    metadata: str,
    count: int,
) -> Delivery:
    """Parse the options for the file.

    Raises
    ------
    RecipeError : when they contradict each other or name what cannot be written
    """
    out, names_file = _place(where)
    kind = (
        _format(out, file_format)
        if names_file and out is not None
        else _one_of(file_format or "tiff", "--format", FILE_FORMATS)
    )
    if names_file and count > 1:
        raise RecipeError(f"{out} is one file, but there are {count} pictures. Give a folder instead.")
    if depth not in (8, 16):
        raise RecipeError(f"A depth of {depth} bits cannot be written. Choose 8 or 16.")
    if not 1 <= quality <= 100:
        raise RecipeError(f"A JPEG quality of {quality} is outside 1 to 100.")
    folder = out.parent if names_file and out is not None else out
    return Delivery.model_validate(
        {
            "format": kind,
            "depth": depth,
            "quality": quality,
            "profile": _one_of(profile, "--profile", get_args(ProfileChoice)),
            "metadata": _one_of(metadata, "--metadata", get_args(MetadataChoice)),
            "folder": folder,
            "suffix": out.suffix if names_file and out is not None else None,
            "name_pattern": out.stem if names_file and out is not None else "{name}-{factor}x",
        }
    )


def parse_tiff_compression(delivery: Delivery, chroma: str, progressive: bool, compression: str) -> Delivery:
    """How the file is packed.

    Raises
    ------
    RecipeError : when it is named wrongly
    """
    return delivery.replace(
        chroma=_one_of(chroma, "--chroma", get_args(Chroma)),
        progressive=progressive,
        compression=_one_of(compression, "--compression", get_args(Compression)),
    )


def parse_separation(delivery: Delivery, printer: Path | None, intent: str) -> Delivery:
    """By which printer's profile the file is separated.

    Raises
    ------
    RecipeError, DeliveryError : when it cannot be
    """
    chosen = delivery.replace(printer=printer, intent=_one_of(intent, "--intent", get_args(RenderingIntent)))
    printer_profile(chosen)
    return chosen


def parse_placement(delivery: Delivery, subfolder: str | None, name: str | None, copy_source: bool) -> Delivery:
    """Parse the options for subfolder and name.

    Raises
    ------
    RecipeError : when a folder cannot be called so
    """
    try:
        placed = delivery.replace(subfolder=subfolder, copy_source=copy_source)
    except RecipeError as error:
        raise RecipeError(f"--subfolder {subfolder}: give the name of one folder.") from error
    return placed if name is None else placed.replace(name_pattern=name)


def _place(where: str | None) -> tuple[Path | None, bool]:
    """The path, and whether it is a file's: a folder's ends in a slash, is there, or has no suffix."""
    if where is None:
        return None, False
    if not where.strip():
        raise RecipeError("--out is empty. Name a file or a folder, or leave the option out.")
    out = Path(where)
    return out, not where.endswith("/") and out.suffix != "" and not os.path.isdir(out)


def _format(out: Path, file_format: str | None) -> FileFormat:
    """The format that the file's suffix says, which an explicit format must not contradict."""
    format_by_suffix = format_of_suffix(out.suffix)
    if format_by_suffix is None:
        raise RecipeError(
            f"{out.name} is neither .tif, .png, .jpg, .webp, .pdf nor .dng. Choose one of these suffixes."
        )
    if file_format is not None and file_format != format_by_suffix:
        raise RecipeError(f"{out.name} is a {format_by_suffix} name, but --format says {file_format}. Leave one out.")
    return format_by_suffix


def _one_of(value: str, option: str, choices: Iterable[str]) -> str:
    if value not in choices:
        raise RecipeError(f"{option} cannot be “{value}”. Choose one of: {', '.join(choices)}.")
    return value
