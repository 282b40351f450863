"""The command ``wamplex``: with a subcommand the work without a window, else the window."""

from __future__ import annotations

import json
import logging
import sys
from collections.abc import Iterable
from pathlib import Path
from typing import Annotated, Any, get_args

import typer
from rich.console import Console
from rich.progress import BarColumn, TextColumn
from rich.progress import Progress as Bars
from rich.table import Table

from wamplex.core.deliver.deliver import Delivered, deliver
from wamplex.core.deliver.limits import check_size
from wamplex.core.deliver.naming import SUFFIXES
from wamplex.core.errors import Cancelled, RecipeError, SizeError, WamplexError
from wamplex.core.geometry.size import (
    DEFAULT_DENSITY_PPI,
    LARGEST_FACTOR,
    LEAST_FACTOR,
    Size,
    fit_into_mm,
)
from wamplex.core.geometry.words import bytes_words, parse_print_size
from wamplex.core.intake.probe import Probe, probe
from wamplex.core.intake.read import read_picture
from wamplex.core.progress import Progress
from wamplex.core.recipe import Delivery, FileFormat, ProfileChoice, Recipe
from wamplex.core.report import delivered_values, probe_values, upscaler_values
from wamplex.core.upscale.registry import UPSCALERS, find_upscaler

OK, SOME_FAILED, USAGE = 0, 1, 2
COMMANDS = ("enlarge", "upscalers", "info")

app = typer.Typer(add_completion=False, no_args_is_help=True, rich_markup_mode=None, help=__doc__)


def main() -> None:
    """Entry point of the ``wamplex`` command."""
    # What libvips grumbles about while probing reaches the user as a sentence of ours.
    logging.getLogger("pyvips").setLevel(logging.CRITICAL)
    words = sys.argv[1:]
    if words and (words[0] in COMMANDS or words[0] in ("--help", "-h", "--version")):
        if words[0] == "--version":
            from importlib.metadata import version

            print(f"wamplex {version('wamplex')}")
            return
        app()
        return
    unknown = [w for w in words if w.startswith("-") and w != "--demo"]
    if unknown:
        print(f"There is no option {unknown[0]}. Try: wamplex --help", file=sys.stderr)
        raise SystemExit(USAGE)
    from wamplex.app.start import start_window

    raise SystemExit(start_window([Path(w) for w in words if w != "--demo"], demo="--demo" in words))


@app.command()
def upscalers(as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False) -> None:
    """List the upscalers."""
    if as_json:
        print(json.dumps([upscaler_values(u) for u in UPSCALERS], indent=2))
        return
    table = Table("key", "name", "kind", "for", box=None)
    for upscaler in UPSCALERS:
        table.add_row(upscaler.key, upscaler.name, upscaler.kind, upscaler.purpose)
    Console().print(table)


@app.command()
def info(
    picture: Annotated[Path, typer.Argument(metavar="IN", help="A picture file.")],
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Say what kind of picture a file holds."""
    try:
        found = probe(picture)
    except WamplexError as error:
        _complain(str(error))
        raise typer.Exit(SOME_FAILED) from error
    values = probe_values(found)
    if as_json:
        print(json.dumps(values, indent=2))
        return
    values["bytes"] = bytes_words(found.file_bytes)
    values["density_ppi"] = "not stated" if found.density_ppi is None else found.density_ppi
    table = Table(box=None, show_header=False)
    for name, value in values.items():
        table.add_row(name.replace("_", " "), str(value))
    Console().print(table)


@app.command()
def enlarge(
    pictures: Annotated[list[Path], typer.Argument(metavar="IN...", help="Picture files.")],
    upscaler: Annotated[str, typer.Option(help="Key of the upscaler; see: wamplex upscalers.")] = "vellum",
    factor: Annotated[float | None, typer.Option(help="Enlargement, 0.25 to 8.")] = None,
    width: Annotated[int | None, typer.Option(help="Width of the result in pixels.")] = None,
    print_size: Annotated[
        str | None, typer.Option("--print", help="Print size to fit into, such as 60x40cm.")
    ] = None,
    ppi: Annotated[float, typer.Option(help="Density of the print.")] = DEFAULT_DENSITY_PPI,
    out: Annotated[Path | None, typer.Option(help="File, or folder (made if missing).")] = None,
    file_format: Annotated[str | None, typer.Option("--format", help="tiff, png or jpeg.")] = None,
    depth: Annotated[int, typer.Option(help="Bits per channel, 8 or 16 (TIFF, PNG).")] = 16,
    quality: Annotated[int, typer.Option(help="JPEG quality, 1 to 100.")] = 92,
    profile: Annotated[str, typer.Option(help="source, srgb, adobe-rgb or display-p3.")] = "source",
    metadata: Annotated[bool, typer.Option(help="Carry EXIF, XMP and IPTC over.")] = True,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Enlarge pictures and write print files."""
    try:
        delivery = _delivery(out, file_format, depth, quality, profile, metadata, len(pictures))
        find_upscaler(upscaler)
        wanted = _SizeWish(factor, width, print_size, ppi)
    except WamplexError as error:
        _complain(str(error))
        raise typer.Exit(USAGE) from error
    results = []
    with _bars(as_json) as bars:
        for path in pictures:
            results.append(_enlarge_one(path, upscaler, wanted, delivery, out, bars, as_json))
    if as_json:
        print(json.dumps(results, indent=2))
    if any("error" in result for result in results):
        raise typer.Exit(SOME_FAILED)


class _SizeWish:
    """The one way, of three, in which the size was asked for."""

    def __init__(self, factor: float | None, width: int | None, print_size: str | None, ppi: float) -> None:
        if sum(wish is not None for wish in (factor, width, print_size)) != 1:
            raise SizeError("Say the size in exactly one way: --factor, --width or --print.")
        self.factor, self.width, self.ppi = factor, width, ppi
        self.print_mm = parse_print_size(print_size) if print_size is not None else None
        if factor is not None and not LEAST_FACTOR <= factor <= LARGEST_FACTOR:
            raise SizeError(f"A factor of {factor:g} is outside {LEAST_FACTOR:g} to {LARGEST_FACTOR:g}.")
        Size(1, 1, 1.0, ppi)  # refuses an impossible density

    def for_picture(self, found: Probe) -> Size:
        size = Size(found.width, found.height, 1.0, self.ppi)
        if self.factor is not None:
            return size.with_factor(self.factor)
        if self.width is not None:
            return size.with_width_px(self.width)
        assert self.print_mm is not None
        return fit_into_mm(size, *self.print_mm)


def _enlarge_one(
    path: Path,
    upscaler: str,
    wanted: _SizeWish,
    delivery: Delivery,
    out: Path | None,
    bars: Bars,
    as_json: bool,
) -> dict[str, Any]:
    try:
        size = wanted.for_picture(probe(path))
        recipe = Recipe(
            upscaler=upscaler, factor=size.factor, density_ppi=size.density_ppi, delivery=delivery
        )
        check_size(size, delivery)
        if not as_json:
            steps = find_upscaler(upscaler).steps(size.factor)
            bars.console.print(
                f"{path.name}: {size.width_px} × {size.height_px} px, {steps}", highlight=False
            )
        done = _with_bar(path, recipe, bars)
    except WamplexError as error:
        _complain(str(error))
        return {"source": str(path), "error": str(error)}
    except KeyboardInterrupt as error:
        raise typer.Exit(SOME_FAILED) from error
    if not as_json:
        bars.console.print(
            f"  {done.path}\n  {done.check.words()}, {bytes_words(done.check.file_bytes)}",
            highlight=False,
            soft_wrap=True,
        )
    return delivered_values(str(path), done)


def _with_bar(path: Path, recipe: Recipe, bars: Bars) -> Delivered:
    task = bars.add_task(path.name, total=1.0, words="reading")
    progress = Progress(lambda fraction, words: bars.update(task, completed=fraction, words=words))
    try:
        picture = read_picture(path, progress)
        for notice in picture.notices:
            bars.console.print(f"  {notice}", highlight=False)
        return deliver(picture, recipe, progress)
    except KeyboardInterrupt:
        progress.cancel()
        raise
    except Cancelled as error:
        raise KeyboardInterrupt from error
    finally:
        bars.remove_task(task)


def _bars(as_json: bool) -> Bars:
    console = Console(stderr=as_json)
    columns = (TextColumn("{task.description}"), BarColumn(), TextColumn("{task.fields[words]}"))
    return Bars(*columns, console=console, transient=True, disable=not console.is_terminal)


def _delivery(
    out: Path | None,
    file_format: str | None,
    depth: int,
    quality: int,
    profile: str,
    metadata: bool,
    count: int,
) -> Delivery:
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


def _complain(sentence: str) -> None:
    print(sentence, file=sys.stderr)
