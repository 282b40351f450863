"""``wamplex enlarge``: print files without a window."""

from __future__ import annotations

import json
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer
from rich.progress import Progress as Bars

from wamplex.commands.console import SOME_FAILED, USAGE, print_error, progress_bars
from wamplex.commands.develop_options import DevelopmentRequest, parse_development
from wamplex.commands.finish_options import load_recipe_option, merge_finish, parse_finish
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
from wamplex.commands.stopping import Stopping
from wamplex.core.analysis.report.suggestion import SUGGESTED, measure_and_suggest
from wamplex.core.base.atomic_files import write_atomically
from wamplex.core.base.errors import Cancelled, WamplexError, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.deliver.deliver import Delivered
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.naming import planned_path
from wamplex.core.deliver.request.size_limits import check_size, expected_bytes
from wamplex.core.finish.finish_request import FinishRequest
from wamplex.core.geometry.size import DEFAULT_DENSITY_PPI
from wamplex.core.geometry.size_text import byte_size_text
from wamplex.core.intake.probe import Probe, probe
from wamplex.core.intake.read import read_picture
from wamplex.core.model.finish_values import Finish
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.upscale_values import ValueName
from wamplex.core.trial.developed_picture import develop_picture
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.upscale.networks.execution import make_execution, use_execution
from wamplex.core.workflow.json_values import lineage_values
from wamplex.core.workflow.orders.intent import Intent, resolve, resolve_layout
from wamplex.core.workflow.queue.job_report import check_report_name, write_job_report
from wamplex.core.workflow.queue.journal import Journal, Planned, journal_path
from wamplex.core.workflow.queue.recovery import unfinished_jobs
from wamplex.core.workflow.queue.run_job import run_job

if TYPE_CHECKING:
    from wamplex.core.workflow.cluster.cluster import Cluster


def enlarge(
    pictures: Annotated[list[Path], typer.Argument(metavar="IN...", help="Picture files.")],
    upscaler: Annotated[
        str, typer.Option(help="Key of the upscaler, or suggested; see: wamplex upscalers.")
    ] = SUGGESTED,
    factor: Annotated[float | None, typer.Option(help="Enlargement, 0.25 to 8.")] = None,
    width: Annotated[int | None, typer.Option(help="Width of the result in pixels.")] = None,
    print_size: Annotated[str | None, typer.Option("--print", help="Print size to fit into, such as 60x40cm.")] = None,
    sheet: Annotated[
        str | None, typer.Option(help="Paper to print on, such as A3 or 60x40cm; the size follows.")
    ] = None,
    place: Annotated[str, typer.Option(help="On the sheet: fit, fill or extend.")] = "fit",
    margin: Annotated[float, typer.Option(help="Bare paper around the picture, mm.")] = 0.0,
    bleed: Annotated[float, typer.Option(help="Picture beyond the sheet, to be cut off, mm.")] = 0.0,
    wrap: Annotated[float, typer.Option(help="Picture around a canvas frame, mirrored, mm.")] = 0.0,
    pages: Annotated[str | None, typer.Option(help="Divide into pages of this paper, such as A4.")] = None,
    ppi: Annotated[float, typer.Option(help="Density of the print.")] = DEFAULT_DENSITY_PPI,
    crop: Annotated[str | None, typer.Option(help="Keep WIDTHxHEIGHT+LEFT+TOP, in source pixels.")] = None,
    turn: Annotated[int, typer.Option(help="Turn clockwise by 90, 180 or 270 degrees first.")] = 0,
    flip: Annotated[bool, typer.Option("--flip", help="Exchange left and right after turning.")] = False,
    straighten: Annotated[float, typer.Option(help="Rotate clockwise by so many degrees.")] = 0.0,
    shrink_first: Annotated[
        float, typer.Option(help="Undo an earlier enlargement by so much; see: wamplex assess.")
    ] = 1.0,
    noise: Annotated[float | None, typer.Option(help="Noise to remove, 0 to 100; measured when left out.")] = None,
    blocks: Annotated[
        float | None, typer.Option(help="Compression to repair, 0 to 100; measured when left out.")
    ] = None,
    softness: Annotated[
        float | None,
        typer.Option(help="Softness to undo, 0 to 100; sharpening, -100 to 0; measured when left out."),
    ] = None,
    moved: Annotated[float | None, typer.Option(help="Movement to undo, in source pixels.")] = None,
    moved_along: Annotated[
        float | None, typer.Option(help="Its direction, degrees anticlockwise from the right.")
    ] = None,
    invention: Annotated[float | None, typer.Option(help="Texture to add, 0 to 100.")] = None,
    sensor_noise: Annotated[
        float | None, typer.Option(help="Raw: percent of the sensor's noise that Tessera takes out.")
    ] = None,
    careful: Annotated[bool, typer.Option("--careful", help="Eight times slower, a little better.")] = False,
    anchor: Annotated[
        float | None, typer.Option(help="Keep within so many levels of the source when shrunk back.")
    ] = None,
    keep_source: Annotated[float | None, typer.Option(help="Percent of the plain source to mix back in.")] = None,
    layer: Annotated[
        list[str] | None,
        typer.Option(help="Lay KEY[:STRENGTH][@MASK.png] over it; source stands for itself. Repeatable."),
    ] = None,
    faces: Annotated[str | None, typer.Option(help="Make faces with KEY[:STRENGTH], through soft ovals.")] = None,
    match: Annotated[
        str | None, typer.Option(help="Take light and colour from the picture REFERENCE[:STRENGTH].")
    ] = None,
    sharpen: Annotated[float, typer.Option(help="Sharpen for the print, percent.")] = 0.0,
    sharpen_radius: Annotated[float | None, typer.Option(help="On paper, mm; suggested when left out.")] = None,
    halo_limit: Annotated[float | None, typer.Option(help="Of sharpening, in levels.")] = None,
    grain: Annotated[float, typer.Option(help="Grain, as a standard deviation in levels.")] = 0.0,
    grain_size: Annotated[float | None, typer.Option(help="On paper, mm.")] = None,
    demosaic: Annotated[str, typer.Option(help="Raw: ahd, aahd, dcb, dht, ppg, vng, linear or tessera.")] = "ahd",
    light: Annotated[str | None, typer.Option(help="Raw: colour of the light, KELVIN[:TINT].")] = None,
    neutral: Annotated[str | None, typer.Option(help="Raw: COLUMN,ROW of what is to be grey.")] = None,
    exposure: Annotated[float, typer.Option(help="Raw: brighter by so many stops, -4 to 6.")] = 0.0,
    cut_off: Annotated[str, typer.Option(help="Raw: cut-off lights: clip, blend or rebuild.")] = "clip",
    tones: Annotated[str, typer.Option(help="Raw: straight, or shoulder for soft lights.")] = "straight",
    space: Annotated[str, typer.Option(help="Raw: working space: bt2020, romm or srgb.")] = "bt2020",
    recipe: Annotated[
        Path | None,
        typer.Option(
            help="A kept recipe's name, a recipe, a project or a picture made here: "
            "trial, framing and finish as it says."
        ),
    ] = None,
    measure: Annotated[
        bool, typer.Option("--measure", help="With --recipe: its upscaler, with values measured for each.")
    ] = False,
    cluster: Annotated[
        str | None, typer.Option(help="Scheduler (dask) whose workers make the tiles, tcp://HOST:PORT.")
    ] = None,
    threads: Annotated[int | None, typer.Option(help="Processor threads for networks.")] = None,
    out: Annotated[str | None, typer.Option(help="File, or folder (made if missing).")] = None,
    file_format: Annotated[
        str | None,
        typer.Option(
            "--format",
            help="tiff, png, jpeg, webp (no loss), pdf (of the print's size), or dng: linear light.",
        ),
    ] = None,
    depth: Annotated[int, typer.Option(help="Bits per channel, 8 or 16 (TIFF, PNG, PDF).")] = 16,
    quality: Annotated[int, typer.Option(help="JPEG quality, 1 to 100.")] = 92,
    chroma: Annotated[
        str, typer.Option(help="JPEG: colour in full (444), halved (422, 420), or auto: full from 90 on.")
    ] = "auto",
    progressive: Annotated[bool, typer.Option("--progressive", help="JPEG: coarse to fine.")] = False,
    compression: Annotated[str, typer.Option(help="TIFF: deflate, lzw or none.")] = "deflate",
    profile: Annotated[str, typer.Option(help="source, srgb, adobe-rgb or display-p3.")] = "source",
    printer: Annotated[
        Path | None, typer.Option(help="ICC profile of a printer: TIFF or PDF in its four inks.")
    ] = None,
    rendering: Annotated[str, typer.Option("--intent", help="Into these inks: relative or perceptual.")] = "relative",
    metadata: Annotated[bool, typer.Option(help="Carry EXIF, XMP and IPTC over.")] = True,
    subfolder: Annotated[str | None, typer.Option(help="A folder below that of the file, made if missing.")] = None,
    name: Annotated[
        str | None,
        typer.Option(help="Pattern: {name} {factor} {upscaler} {width} {height} {ppi} {print} {date}."),
    ] = None,
    copy_source: Annotated[bool, typer.Option("--copy-source", help="Put the source beside the file.")] = False,
    recipe_inside: Annotated[
        bool, typer.Option(help="Write into the file how it was made; see: wamplex recipe.")
    ] = True,
    report_to: Annotated[
        Path | None, typer.Option("--report", help="Write what was made into a .csv or .json.")
    ] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Enlarge pictures and write print files."""
    try:
        delivery = parse_delivery(out, file_format, depth, quality, profile, metadata, len(pictures))
        chosen = None if upscaler.lower() == SUGGESTED else find_upscaler(upscaler)
        given: dict[ValueName, object] = {
            "sensor_noise": sensor_noise,
            "noise": noise,
            "blocks": blocks,
            "softness": softness,
            "moved_px": moved,
            "moved_deg": moved_along,
            "invention": invention,
            "careful": careful,
            "anchor_levels": anchor,
            "keep_source": keep_source,
        }
        intent = Intent(
            size=parse_size(factor, width, print_size, ppi, parse_sheet(sheet, place, margin, bleed, wrap)),
            upscaler=SUGGESTED if chosen is None else chosen.key,
            fixed=parse_values(chosen, given),
            framing=parse_framing(crop, turn, flip, straighten, shrink_first),
        )
        develop = parse_development(demosaic, light, neutral, exposure, cut_off, tones, space)
        finish_request = parse_finish(layer or [], faces, match, sharpen, sharpen_radius, halo_limit, grain, grain_size)
        if report_to is not None:
            check_report_name(report_to)
        if recipe is not None:
            load_recipe_option(recipe, pictures[0])  # refused before anything is made
        delivery = parse_tiff_compression(delivery, chroma, progressive, compression)
        delivery = parse_separation(delivery, printer, rendering)
        delivery = parse_placement(delivery, subfolder, name, copy_source)
        delivery = delivery.replace(pages=parse_pages(pages), keep_recipe=recipe_inside)
        if threads is not None:
            use_execution(make_execution(threads=threads))
        workers = None if cluster is None else _cluster(cluster)
    except WamplexError as error:
        print_error(str(error))
        raise typer.Exit(USAGE) from error
    results = []
    journal = Journal(journal_path())
    if count := unfinished_jobs(journal):
        print_error(f"{count} more of an earlier run were never finished. To make them: wamplex resume")
    with Stopping() as stopping, progress_bars(as_json) as shown:
        work = _Work(
            intent, develop, finish_request, recipe, measure, delivery, journal, stopping, shown, as_json, workers
        )
        for result in _all(pictures, work):
            results.append(result)
            if report_to is not None:  # after each, so that it tells of what was made before a power cut
                _write_report(results, report_to)
            if stopping.asked is not None:
                raise typer.Exit(stopping.exit_code)
    if as_json:
        print(json.dumps(results, indent=2))
    if any("error" in result for result in results):
        raise typer.Exit(SOME_FAILED)


def _all(pictures: list[Path], work: _Work) -> Iterator[dict[str, Any]]:
    """One after the other; with more machines as many at once as there are workers, in their order."""
    if work.cluster is None:
        for path in pictures:
            yield _enlarge_one(path, work)
        return
    try:
        with ThreadPoolExecutor(work.cluster.workers) as pool:
            for outcome in [pool.submit(_enlarge_one, path, work) for path in pictures]:
                yield outcome.result()
    finally:
        work.cluster.close()


def _write_report(results: list[dict[str, Any]], path: Path) -> None:
    try:
        write_atomically(path, write_job_report(results, path))
    except OSError as error:
        print_error(f"The report {path} cannot be written: {(error.strerror or str(error)).lower()}.")


def _cluster(address: str) -> Cluster:
    from wamplex.core.workflow.cluster.cluster import (
        Cluster,
    )  # takes half a second to load, which others need not

    return Cluster(address)


@dataclass(frozen=True)
class _Work:
    """What is the same for all pictures."""

    intent: Intent
    develop: DevelopmentRequest
    finish: FinishRequest
    recipe: Path | None
    measure: bool
    delivery: Delivery
    journal: Journal
    stopping: Stopping
    shown: Bars
    as_json: bool
    cluster: Cluster | None = None


def _enlarge_one(path: Path, work: _Work) -> dict[str, Any]:
    try:
        header = probe(path)
        if work.recipe is not None:  # its crop counts for the size, too, and nothing is suggested beside it
            project_recipe = load_recipe_option(work.recipe, path)
            intent = replace(work.intent, framing=project_recipe.framing, upscaler=project_recipe.base.upscaler)
            work = replace(work, intent=intent)
        placed = resolve_layout(work.intent, header)
        if work.delivery.pages is None:
            check_size(placed.size, work.delivery, placed.sheet)
        done, recipe, reasons, warnings = _with_bar(header, work)
    except Cancelled as error:
        raise typer.Exit(work.stopping.exit_code) from error
    except Exception as error:
        sentence = user_message(error, f"There is not enough memory for {path.name}.")
        print_error(sentence)
        return {"source": str(path), "error": sentence}
    if not work.as_json:
        work.shown.console.print(
            f"  {done.path}\n  {done.text}, {byte_size_text(done.check.file_bytes)}",
            highlight=False,
            markup=False,
            soft_wrap=True,
        )
    values = lineage_values(str(path), recipe, done)
    return {**values, "reasons": list(reasons), "warnings": list(warnings)}


def _with_finish(recipe: Recipe, finish: Finish, work: _Work, path: Path) -> Recipe:
    """With what options say of finishing; trial and framing as a recipe says, where one is given."""
    if work.recipe is None:
        return recipe.finished(finish)
    saved = load_recipe_option(work.recipe, path)
    base = recipe.base
    if not work.measure:  # a kept recipe knows nothing of the places that are spared here
        spared = saved.values.spared or recipe.values.spared
        base = saved.base.replace(values=saved.values.replace(spared=spared))
    developed = recipe.development or saved.development
    return recipe.replace(base=base, development=developed).finished(merge_finish(finish, saved.finish))


def _with_bar(header: Probe, work: _Work) -> tuple[Delivered, Recipe, tuple[str, ...], tuple[str, ...]]:
    intent, delivery, shown = work.intent, work.delivery, work.shown
    path = header.path
    task = shown.add_task(path.name, total=1.0, words="reading")
    progress = Progress(lambda fraction, words: shown.update(task, completed=fraction, words=words))
    try:
        with work.stopping.cancels(progress):
            picture = read_picture(path, progress)
            development = work.develop.of(picture)
            picture = develop_picture(picture, Recipe(development=development), progress)
            spares = intent.upscaler != SUGGESTED and "spared" in find_upscaler(intent.upscaler).values
            suggested = measure_and_suggest(picture, progress, faces=spares)
            recipe, reasons = resolve(intent, header, suggested)
            recipe = recipe.replace(development=development)
            finish, more = work.finish.finish_of(picture, suggested, recipe.density_ppi, progress)
            recipe, reasons = _with_finish(recipe, finish, work, path), (*reasons, *more)
            size = recipe.size(picture.width, picture.height)
            if not work.as_json:
                steps = find_upscaler(recipe.upscaler).steps(recipe.factor, recipe.values)
                shown.console.print(
                    f"{path.name}: {size.width_px} × {size.height_px} px, {steps}",
                    highlight=False,
                    markup=False,
                )
            for notice in (*picture.notices, *reasons):
                shown.console.print(f"  {notice}", highlight=False, markup=False)
            name = planned_path(path, recipe, delivery, size)
            expected = expected_bytes(size, delivery, picture.channels, recipe.sheet)
            (job,) = work.journal.add([Planned(header.source, recipe, delivery, name, expected)])
            maker = None if work.cluster is None else work.cluster.of(recipe)
            done = run_job(work.journal, job, progress, picture, maker)
            return done, recipe, reasons, picture.notices
    finally:
        shown.remove_task(task)
