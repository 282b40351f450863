"""The options of ``wamplex enlarge`` in groups, each read into what the core takes."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Any

import typer

from wamplex.commands.develop_options import DevelopmentRequest, parse_development
from wamplex.commands.finish_options import parse_finish
from wamplex.commands.options import (
    parse_delivery,
    parse_framing,
    parse_pages,
    parse_placement,
    parse_separation,
    parse_sheet,
    parse_size,
    parse_tiff_compression,
    parse_values,
)
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.finish.finish_request import FinishRequest
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.size import DEFAULT_DENSITY_PPI
from wamplex.core.model.value_table import VALUES, ValueName
from wamplex.core.upscale.upscalers.interface import Upscaler
from wamplex.core.workflow.orders.intent import SizeIntent


@dataclass(frozen=True)
class SizeOptions:
    """How large the result is, and what it is printed on."""

    factor: Annotated[float | None, typer.Option(help="Enlargement, 0.25 to 8.")] = None
    width: Annotated[int | None, typer.Option(help="Width of the result in pixels.")] = None
    print_size: Annotated[str | None, typer.Option("--print", help="Print size to fit into, such as 60x40cm.")] = None
    sheet: Annotated[str | None, typer.Option(help="Paper, such as A3 or 60x40cm; the size follows.")] = None
    place: Annotated[str, typer.Option(help="On the sheet: fit, fill or extend.")] = "fit"
    margin: Annotated[float, typer.Option(help="Bare paper around the picture, mm.")] = 0.0
    bleed: Annotated[float, typer.Option(help="Picture beyond the sheet, to be trimmed, mm.")] = 0.0
    wrap: Annotated[float, typer.Option(help="Mirrored picture around a canvas frame, mm.")] = 0.0
    ppi: Annotated[float, typer.Option(help="Density of the print.")] = DEFAULT_DENSITY_PPI

    def request(self) -> SizeIntent:
        """The size that is asked for."""
        sheet = parse_sheet(self.sheet, self.place, self.margin, self.bleed, self.wrap)
        return parse_size(self.factor, self.width, self.print_size, self.ppi, sheet)


@dataclass(frozen=True)
class FramingOptions:
    """How the picture is turned and cropped first."""

    crop: Annotated[str | None, typer.Option(help="Keep WIDTHxHEIGHT+LEFT+TOP, in source pixels.")] = None
    turn: Annotated[int, typer.Option(help="First rotate clockwise by 90, 180 or 270 degrees.")] = 0
    flip: Annotated[bool, typer.Option("--flip", help="Mirror left and right after rotating.")] = False
    straighten: Annotated[float, typer.Option(help="Rotate clockwise by so many degrees.")] = 0.0
    shrink_first: Annotated[float, typer.Option(help="Undo an earlier enlargement; see: wamplex assess.")] = 1.0

    def request(self) -> Framing:
        """The framing that is asked for."""
        return parse_framing(self.crop, self.turn, self.flip, self.straighten, self.shrink_first)


def _option(name: ValueName) -> Any:
    return typer.Option(VALUES[name].flag, help=VALUES[name].help)


def _old(name: ValueName) -> Any:
    """The option under its earlier name: it works and is not listed."""
    return typer.Option(VALUES[name].old_flag, hidden=True)


@dataclass(frozen=True)
class ValueOptions:
    """The values of the trial; what is left out is measured."""

    sensor_noise: Annotated[float | None, _option("sensor_noise")] = None
    noise: Annotated[float | None, _option("noise")] = None
    compression: Annotated[float | None, _option("compression")] = None
    blur: Annotated[float | None, _option("blur")] = None
    motion_blur_px: Annotated[float | None, _option("motion_blur_px")] = None
    motion_blur_deg: Annotated[float | None, _option("motion_blur_deg")] = None
    texture_strength: Annotated[float | None, _option("texture_strength")] = None
    crispness: Annotated[float | None, _option("crispness")] = None
    self_ensemble: Annotated[bool, _option("self_ensemble")] = False
    back_projection_levels: Annotated[float | None, _option("back_projection_levels")] = None
    keep_source: Annotated[float | None, _option("keep_source")] = None
    old_compression: Annotated[float | None, _old("compression")] = None
    old_blur: Annotated[float | None, _old("blur")] = None
    old_motion_blur_px: Annotated[float | None, _old("motion_blur_px")] = None
    old_motion_blur_deg: Annotated[float | None, _old("motion_blur_deg")] = None
    old_texture_strength: Annotated[float | None, _old("texture_strength")] = None
    old_self_ensemble: Annotated[bool, _old("self_ensemble")] = False
    old_back_projection_levels: Annotated[float | None, _old("back_projection_levels")] = None

    def request(self, upscaler: Upscaler | None) -> dict[ValueName, object]:
        """The values that are asked for, under their new or their old options."""
        given: dict[ValueName, object] = {}
        for name in VALUES:
            value = getattr(self, name)
            given[name] = getattr(self, f"old_{name}", value) if value is None or value is False else value
        return parse_values(upscaler, given)


@dataclass(frozen=True)
class FinishOptions:
    """Layers, faces, tone, sharpening and grain."""

    layer: Annotated[
        list[str] | None,
        typer.Option(
            help='Blend another upscaler over the result, e.g. vellum:70@mask.png ("source" is the original). '
            "May be repeated."
        ),
    ] = None
    faces: Annotated[str | None, typer.Option(help="Upscaler for faces, e.g. mender:80, through soft ellipses.")] = None
    match: Annotated[str | None, typer.Option(help="Match light and colour to a picture, e.g. a.jpg:50.")] = None
    sharpen: Annotated[float, typer.Option(help="Sharpen for the print, percent.")] = 0.0
    sharpen_radius: Annotated[float | None, typer.Option(help="On paper, mm; suggested if left out.")] = None
    halo_limit: Annotated[float | None, typer.Option(help="Largest halo of the sharpening, in levels.")] = None
    grain: Annotated[float, typer.Option(help="Grain, standard deviation in levels.")] = 0.0
    grain_size: Annotated[float | None, typer.Option(help="On paper, mm.")] = None

    def request(self) -> FinishRequest:
        """The finish that is asked for."""
        return parse_finish(
            self.layer or [],
            self.faces,
            self.match,
            self.sharpen,
            self.sharpen_radius,
            self.halo_limit,
            self.grain,
            self.grain_size,
        )


@dataclass(frozen=True)
class DevelopOptions:
    """How raw files are developed."""

    demosaic: Annotated[str, typer.Option(help="Raw: ahd, aahd, dcb, dht, ppg, vng, linear or tessera.")] = "ahd"
    light: Annotated[str | None, typer.Option(help="Raw: colour temperature of the light, KELVIN[:TINT].")] = None
    neutral: Annotated[str | None, typer.Option(help="Raw: COLUMN,ROW of a place that should be grey.")] = None
    exposure: Annotated[float, typer.Option(help="Raw: brighten by so many stops, -4 to 6.")] = 0.0
    highlights: Annotated[str, typer.Option(help="Raw: clipped highlights: clip, blend or rebuild.")] = "clip"
    tones: Annotated[str, typer.Option(help="Raw: straight, or shoulder for soft highlights.")] = "straight"
    space: Annotated[str, typer.Option(help="Raw: working space: bt2020, romm or srgb.")] = "bt2020"
    old_highlights: Annotated[str | None, typer.Option("--cut-off", hidden=True)] = None

    def request(self) -> DevelopmentRequest:
        """The development that is asked for."""
        highlights = self.old_highlights or self.highlights
        return parse_development(
            self.demosaic, self.light, self.neutral, self.exposure, highlights, self.tones, self.space
        )


@dataclass(frozen=True)
class FileOptions:
    """What file is written, and where."""

    out: Annotated[str | None, typer.Option(help="File, or folder (made if missing).")] = None
    file_format: Annotated[
        str | None, typer.Option("--format", help="tiff, png, jpeg, webp (lossless), pdf, or dng (linear light).")
    ] = None
    depth: Annotated[int, typer.Option(help="Bits per channel, 8 or 16 (TIFF, PNG, PDF).")] = 16
    quality: Annotated[int, typer.Option(help="JPEG quality, 1 to 100.")] = 92
    chroma: Annotated[str, typer.Option(help="JPEG chroma: 444, 422, 420, or auto (444 from quality 90).")] = "auto"
    progressive: Annotated[bool, typer.Option("--progressive", help="JPEG: progressive.")] = False
    compression_kind: Annotated[str, typer.Option("--compression", help="TIFF: deflate, lzw or none.")] = "deflate"
    profile: Annotated[str, typer.Option(help="source, srgb, adobe-rgb or display-p3.")] = "source"
    printer: Annotated[Path | None, typer.Option(help="ICC profile of a CMYK printer: TIFF or PDF.")] = None
    rendering: Annotated[
        str, typer.Option("--intent", help="Rendering intent for --printer: relative or perceptual.")
    ] = "relative"
    metadata: Annotated[
        str,
        typer.Option(help="EXIF, XMP and IPTC to copy: all, safe (no place, serial numbers, names), rights or none."),
    ] = "safe"
    source_type: Annotated[bool, typer.Option(help="State how the pixels were made (IPTC Digital Source Type).")] = True
    old_metadata: Annotated[bool, typer.Option("--no-metadata", hidden=True)] = False
    subfolder: Annotated[str | None, typer.Option(help="Folder below that of the file, made if missing.")] = None
    name: Annotated[
        str | None,
        typer.Option(help="Pattern: {name} {factor} {upscaler} {width} {height} {ppi} {print} {date}."),
    ] = None
    copy_source: Annotated[bool, typer.Option("--copy-source", help="Copy the source beside the file.")] = False
    recipe_inside: Annotated[bool, typer.Option(help="Write the recipe into the file; see: wamplex recipe.")] = True
    pages: Annotated[str | None, typer.Option(help="Divide into pages of this paper, such as A4.")] = None

    def request(self, count: int) -> Delivery:
        """The file that is asked for, for so many pictures."""
        delivery = parse_delivery(
            self.out,
            self.file_format,
            self.depth,
            self.quality,
            self.profile,
            "none" if self.old_metadata else self.metadata,
            count,
        )
        delivery = parse_tiff_compression(delivery, self.chroma, self.progressive, self.compression_kind)
        delivery = parse_separation(delivery, self.printer, self.rendering)
        delivery = parse_placement(delivery, self.subfolder, self.name, self.copy_source)
        return delivery.replace(
            pages=parse_pages(self.pages), keep_recipe=self.recipe_inside, source_type=self.source_type
        )
