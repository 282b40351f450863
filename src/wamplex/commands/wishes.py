"""Options of ``wamplex enlarge``, read into the values of a recipe."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import get_args

from pydantic import ValidationError

from wamplex.core.deliver.delivery import Delivery, FileFormat, ProfileChoice
from wamplex.core.deliver.naming import SUFFIXES
from wamplex.core.errors import RecipeError, SizeError
from wamplex.core.geometry.framing import MOST_STRAIGHTENING_DEG, Crop, Framing, crop_to_ratio
from wamplex.core.geometry.pages import Pages
from wamplex.core.geometry.paper import PAPERS
from wamplex.core.geometry.sheet import Place, Sheet, on_sheet
from wamplex.core.geometry.size import LARGEST_FACTOR, LEAST_FACTOR, Size, fit_into_mm
from wamplex.core.geometry.words import parse_print_size
from wamplex.core.intake.probe import Probe
from wamplex.core.measure.suggest import Suggested
from wamplex.core.upscale.interface import Upscaler
from wamplex.core.upscale.values import Values


@dataclass(frozen=True)
class SheetWish:
    """The sheet asked for: its sides in millimetres, and how the picture lies on it."""

    name: str
    short_mm: float
    long_mm: float
    place: str
    margin_mm: float
    bleed_mm: float
    wrap_mm: float

    def for_size(self, size: Size) -> Sheet:
        """The sheet lying as the picture does."""
        sides = (self.long_mm, self.short_mm)
        width, height = sides if size.source_width >= size.source_height else sides[::-1]
        values = {"name": self.name, "width_mm": width, "height_mm": height, "place": self.place}
        around = {"margin_mm": self.margin_mm, "bleed_mm": self.bleed_mm, "wrap_mm": self.wrap_mm}
        return Sheet.model_validate({**values, **around})

    def framing(self, framing: Framing, width: int, height: int) -> Framing:
        """The crop that "fill" asks for."""
        if self.place != "fill":
            return framing
        ratio = self.for_size(Size(*framing.size(width, height), 1.0)).ratio
        return crop_to_ratio(framing, width, height, ratio)


def sheet_wish(name: str | None, place: str, margin: float, bleed: float, wrap: float) -> SheetWish | None:
    """What the options say about the sheet.

    Raises
    ------
    RecipeError, SizeError : with the reason
    """
    if name is None:
        return None
    if place not in get_args(Place):
        raise RecipeError(f"--place cannot be “{place}”. Choose one of: {', '.join(get_args(Place))}.")
    wish = SheetWish(name, *paper_sides(name), place, margin, bleed, wrap)
    try:
        _ = wish.for_size(Size(3, 2, 1.0)).area_mm
    except ValidationError as error:
        raise RecipeError(f"The sheet cannot be: {error.errors()[0]['msg']}.") from error
    return wish


def paper_sides(name: str) -> tuple[float, float]:
    """Shorter and longer side in mm of a paper's name, or of a size such as 60x40cm.

    Raises
    ------
    SizeError : when it is neither
    """
    wanted = name.lower().replace(" ", "").replace("×", "x")
    for paper in PAPERS:
        if paper.name.lower().replace(" ", "").replace("×", "x") == wanted:
            return paper.short_mm, paper.long_mm
    short, long = sorted(parse_print_size(name))
    return short, long


def pages_wish(name: str | None) -> Pages | None:
    """The printer's sheet that a print is divided for."""
    if name is None:
        return None
    short, long = paper_sides(name)
    return Pages(width_mm=short, height_mm=long)


class SizeWish:
    """The one way, of four, in which the size was asked for."""

    def __init__(
        self,
        factor: float | None,
        width: int | None,
        print_size: str | None,
        ppi: float,
        sheet: SheetWish | None = None,
    ) -> None:
        ways = (factor, width, print_size, sheet)
        if sum(wish is not None for wish in ways) != 1:
            raise SizeError("Say the size in exactly one way: --factor, --width, --print or --sheet.")
        self.factor, self.width, self.ppi, self.sheet = factor, width, ppi, sheet
        self.print_mm = parse_print_size(print_size) if print_size is not None else None
        if factor is not None and not LEAST_FACTOR <= factor <= LARGEST_FACTOR:
            raise SizeError(f"A factor of {factor:g} is outside {LEAST_FACTOR:g} to {LARGEST_FACTOR:g}.")
        Size(1, 1, 1.0, ppi)  # refuses an impossible density

    def for_picture(self, found: Probe, framing: Framing) -> Size:
        """The size it means for what a framing leaves of a picture."""
        size = Size(*framing.size(found.width, found.height), 1.0, self.ppi)
        if self.factor is not None:
            return size.with_factor(self.factor)
        if self.width is not None:
            return size.with_width_px(self.width)
        if self.sheet is not None:
            return on_sheet(size, self.sheet.for_size(size))
        assert self.print_mm is not None
        return fit_into_mm(size, *self.print_mm)


def framing_wish(crop: str | None, turn: int, flip: bool, straighten: float, shrink_first: float) -> Framing:
    """What the options say about framing.

    Raises
    ------
    RecipeError : with the reason
    """
    kept = None
    if crop is not None:
        match = re.fullmatch(r"(\d+)x(\d+)\+(\d+)\+(\d+)", crop.replace("×", "x"))
        if match is None:
            raise RecipeError(
                f"--crop cannot be “{crop}”. Write it like 800x600+40+20: width, height, left, top."
            )
        width, height, x, y = (int(n) for n in match.groups())
        kept = Crop(x=x, y=y, width=max(width, 1), height=max(height, 1))
    if turn not in (0, 90, 180, 270):
        raise RecipeError(f"--turn cannot be {turn}. Choose 90, 180 or 270 degrees.")
    if abs(straighten) > MOST_STRAIGHTENING_DEG:
        raise RecipeError(f"--straighten {straighten:g} is outside -45 to 45 degrees.")
    if not 1 <= shrink_first <= 8:
        raise RecipeError(f"--shrink-first {shrink_first:g} is outside 1 to 8.")
    changes = {"turns": turn // 90, "flipped": flip, "straighten_deg": straighten, "crop": kept}
    return Framing.model_validate({**changes, "shrink_first": shrink_first})


_OPTIONS = {"anchor_levels": "--anchor", "moved_px": "--moved", "moved_deg": "--moved-along"}
_RANGES = {"anchor_levels": (0, 64), "softness": (-100, 100), "moved_px": (0, 20), "moved_deg": (0, 179)}


@dataclass(frozen=True)
class ValuesWish:
    """The values asked for; None where the option was left out."""

    noise: float | None = None
    blocks: float | None = None
    softness: float | None = None
    moved_px: float | None = None
    moved_deg: float | None = None
    invention: float | None = None
    careful: bool | None = None
    anchor_levels: float | None = None
    keep_source: float | None = None

    def check(self, upscaler: Upscaler | None) -> None:
        """Refuse values out of range, and values the upscaler would not heed; None stands for any upscaler.

        Raises
        ------
        RecipeError : with the reason
        """
        for name, value in self._given().items():
            option = _OPTIONS.get(name, f"--{name.replace('_', '-')}")
            if upscaler is not None and name not in upscaler.values:
                raise RecipeError(
                    f"{upscaler.name} has no {option}. Leave it out, or choose another upscaler."
                )
            try:
                Values.model_validate({name: value})
            except ValidationError as error:
                least, most = _RANGES.get(name, (0, 100))
                raise RecipeError(f"{option} {value:g} is outside {least} to {most}.") from error

    def for_picture(self, upscaler: Upscaler, suggested: Suggested) -> tuple[Values, list[str]]:
        """The values for a picture, those left out as suggested, and a line on each measured one."""
        values = suggested.values_for(upscaler.values)
        given = {name: value for name, value in self._given().items() if name in upscaler.values}
        values = Values.model_validate({**values.model_dump(), **given})
        reasons = []
        for name in upscaler.values:
            reason = suggested.reasons.get(name)
            if reason is not None and (name in given or name != "moved_px" or values.moved_px > 0):
                reasons.append(
                    f"{name} {getattr(values, name):g}: {'as you said' if name in given else reason}"
                )
        unheeded = [name for name in self._given() if name not in upscaler.values]
        reasons += [f"{name} is not used: {upscaler.name} has no such value" for name in unheeded]
        return values, reasons

    def _given(self) -> dict[str, float | bool]:
        return {name: value for name, value in vars(self).items() if value is not None and value is not False}


def delivery_wish(
    out: Path | None,
    file_format: str | None,
    depth: int,
    quality: int,
    profile: str,
    metadata: bool,
    count: int,
) -> Delivery:
    """What the options say about the file to write.

    Raises
    ------
    RecipeError : when they contradict each other or name what cannot be written
    """
    names_file = out is not None and out.suffix != "" and not out.is_dir()
    kind = (
        _format(out, file_format)
        if names_file and out is not None
        else _one_of(file_format or "tiff", "--format", SUFFIXES)
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
            "keep_metadata": metadata,
            "folder": folder,
            "name_pattern": out.stem if names_file and out is not None else "{name}-{factor}x",
        }
    )


def _format(out: Path, file_format: str | None) -> FileFormat:
    """The format that the file's suffix says, which an explicit format must not contradict."""
    by_suffix: dict[str, FileFormat] = {
        ".tif": "tiff",
        ".tiff": "tiff",
        ".png": "png",
        ".jpg": "jpeg",
        ".jpeg": "jpeg",
    }
    said = by_suffix.get(out.suffix.lower())
    if said is None:
        raise RecipeError(f"{out.name} is neither .tif, .png nor .jpg. Choose one of these suffixes.")
    if file_format is not None and file_format != said:
        raise RecipeError(f"{out.name} is a {said} name, but --format says {file_format}. Leave one out.")
    return said


def _one_of(value: str, option: str, known: Iterable[str]) -> str:
    if value not in known:
        raise RecipeError(f"{option} cannot be “{value}”. Choose one of: {', '.join(known)}.")
    return value
