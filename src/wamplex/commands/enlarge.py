"""``wamplex enlarge``: print files without a window."""

from __future__ import annotations

import json
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager, nullcontext
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer
from rich.progress import Progress as Bars

from wamplex.commands import SOME_FAILED, USAGE
from wamplex.commands.console import print_error, print_notices, progress_bars
from wamplex.commands.enlarge_decisions import EnlargeRequest, upscaler_for_frames
from wamplex.commands.enlarge_options import (
    DevelopOptions,
    FileOptions,
    FinishOptions,
    FramingOptions,
    SizeOptions,
    ValueOptions,
)
from wamplex.commands.option_groups import takes_option_groups
from wamplex.commands.stopping import Stopping
from wamplex.core.analysis.suggestion.suggestion import SUGGESTED
from wamplex.core.base.atomic_files import write_atomically
from wamplex.core.base.errors import Cancelled, WamplexError, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.deliver.deliver import Delivered
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.size_limits import check_size
from wamplex.core.geometry.size_text import byte_size_text
from wamplex.core.intake.probe import Probe, probe
from wamplex.core.intake.read import read_picture
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.upscale.networks.execution import make_execution, use_execution
from wamplex.core.workflow.decoding.decoding_client import decode_in_worker
from wamplex.core.workflow.json_values import lineage_values
from wamplex.core.workflow.orders.intent import Intent, resolve_layout
from wamplex.core.workflow.orders.order import create_order
from wamplex.core.workflow.queue.job_report import check_report_name, write_job_report
from wamplex.core.workflow.queue.journal import Journal, journal_path
from wamplex.core.workflow.queue.recovery import unfinished_jobs
from wamplex.core.workflow.queue.run_job import run_job
from wamplex.core.workflow.recipe_source import load_sourced_recipe

if TYPE_CHECKING:
    from wamplex.core.workflow.cluster.cluster import Cluster


@takes_option_groups
def enlarge(
    pictures: Annotated[list[Path], typer.Argument(metavar="IN...", help="Picture files.")],
    size: SizeOptions,
    framing: FramingOptions,
    values: ValueOptions,
    finish: FinishOptions,
    develop: DevelopOptions,
    file: FileOptions,
    upscaler: Annotated[
        str, typer.Option(help="Key of the upscaler, or suggested; see: wamplex upscalers.")
    ] = SUGGESTED,
    frames: Annotated[
        list[Path] | None,
        typer.Option("--with", metavar="FRAME", help="A further frame of the same scene; repeat it for each."),
    ] = None,
    recipe: Annotated[
        Path | None,
        typer.Option(
            help="Use trial, framing and finish of a stored recipe, a recipe file, a project or a print file."
        ),
    ] = None,
    measure: Annotated[
        bool, typer.Option("--measure", help="With --recipe: measure the values for each picture.")
    ] = False,
    as_is: Annotated[
        bool, typer.Option("--as-is", help="With --recipe: keep crop and masks of another picture.")
    ] = False,
    cluster: Annotated[str | None, typer.Option(help="dask scheduler whose workers render, tcp://HOST:PORT.")] = None,
    trust_network: Annotated[
        bool, typer.Option("--trust-network", help="With --cluster: use another computer without TLS.")
    ] = False,
    threads: Annotated[int | None, typer.Option(help="Processor threads for networks.")] = None,
    report_to: Annotated[Path | None, typer.Option("--report", help="List the results in a .csv or .json.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Enlarge pictures and write print files."""
    try:
        delivery = file.request(len(pictures))
        upscaler = upscaler_for_frames(frames or [], pictures, upscaler, recipe)
        chosen = None if upscaler.lower() == SUGGESTED else find_upscaler(upscaler)
        intent = Intent(
            size=size.request(),
            upscaler=SUGGESTED if chosen is None else chosen.key,
            fixed=values.request(chosen),
            framing=framing.request(),
        )
        further = tuple(frames or ())
        request = EnlargeRequest(intent, develop.request(), finish.request(), recipe, as_is, measure, further)
        if report_to is not None:
            check_report_name(report_to)
        if recipe is not None:
            load_sourced_recipe(recipe, pictures[0])  # refused before any file is written
        if threads is not None:
            use_execution(make_execution(threads=threads))
        workers = None if cluster is None else _cluster(cluster, trust_network)
    except WamplexError as error:
        print_error(str(error))
        raise typer.Exit(USAGE) from error
    results = []
    journal = Journal(journal_path())
    if count := unfinished_jobs(journal):
        print_error(f"{count} unfinished jobs of an earlier run. To resume them: wamplex resume")
    print_notices(journal)
    # A file that crashes a decoder must not cost the others; a single one does not wait for another process.
    decoding = decode_in_worker() if len(pictures) > 1 else nullcontext()
    cluster_pool = nullcontext() if workers is None else _connected(workers)
    with Stopping() as stopping, progress_bars(as_json) as shown, decoding, cluster_pool as pool:
        work = _Work(request, delivery, journal, stopping, shown, as_json, workers)
        for result in _all(pictures, work, pool):
            results.append(result)
            if report_to is not None:  # after each, so that it tells of what was made before a power cut
                _write_report(results, report_to)
            print_notices(journal)
            if stopping.asked is not None:
                raise typer.Exit(stopping.exit_code)
    if as_json:
        print(json.dumps(results, indent=2))
    if any("error" in result for result in results):
        raise typer.Exit(SOME_FAILED)


def _all(pictures: list[Path], work: _Work, pool: ThreadPoolExecutor | None) -> Iterator[dict[str, Any]]:
    """One after the other; with more machines as many at once as there are workers, in their order."""
    if pool is None:
        yield from (_enlarge_one(path, work) for path in pictures)
    else:
        for outcome in [pool.submit(_enlarge_one, path, work) for path in pictures]:
            yield outcome.result()


@contextmanager
def _connected(cluster: Cluster) -> Iterator[ThreadPoolExecutor]:
    """A thread for each worker; inside, the cluster stays connected."""
    try:
        with ThreadPoolExecutor(cluster.workers) as pool:
            yield pool
    finally:
        cluster.close()


def _write_report(results: list[dict[str, Any]], path: Path) -> None:
    try:
        write_atomically(path, write_job_report(results, path))
    except OSError as error:
        print_error(f"The report {path} cannot be written: {(error.strerror or str(error)).lower()}.")


def _cluster(address: str, trust_network: bool) -> Cluster:
    from wamplex.core.workflow.cluster.cluster import (
        Cluster,
    )  # takes half a second to load, which others need not

    return Cluster(address, trust_network=trust_network)


@dataclass(frozen=True)
class _Work:
    """What is the same for all pictures."""

    request: EnlargeRequest
    delivery: Delivery
    journal: Journal
    stopping: Stopping
    shown: Bars
    as_json: bool
    cluster: Cluster | None = None


@dataclass(frozen=True)
class _Outcome:
    """A file, and how it came about: reasons for automatic choices, and what reading changed."""

    done: Delivered
    recipe: Recipe
    reasons: tuple[str, ...]
    warnings: tuple[str, ...]


def _enlarge_one(path: Path, work: _Work) -> dict[str, Any]:
    try:
        outcome = _deliver(probe(path), work)
    except Cancelled as error:
        raise typer.Exit(work.stopping.exit_code) from error
    except Exception as error:
        sentence = user_message(error, f"There is not enough memory for {path.name}.")
        print_error(sentence)
        return {"source": str(path), "error": sentence}
    done = outcome.done
    if not work.as_json:
        work.shown.console.print(
            f"  {done.path}\n  {done.text}, {byte_size_text(done.check.file_bytes)}",
            highlight=False,
            markup=False,
            soft_wrap=True,
        )
    values = lineage_values(str(path), outcome.recipe, done)
    return {**values, "reasons": list(outcome.reasons), "warnings": list(outcome.warnings)}


def _deliver(header: Probe, work: _Work) -> _Outcome:
    shown, path = work.shown, header.path
    task = shown.add_task(path.name, total=1.0, words="reading")
    progress = Progress(lambda fraction, words: shown.update(task, completed=fraction, words=words))
    try:
        with work.stopping.cancels(progress):
            request = work.request.for_picture(header)
            if work.delivery.pages is None:  # refused before the picture is read
                placed = resolve_layout(request.intent, header)
                check_size(placed.size, work.delivery, placed.sheet)
            picture = read_picture(path, progress)
            recipe, reasons = request.decide(picture, header, progress)
            _print_decisions(picture, recipe, reasons, work)
            order = create_order(header, recipe, work.delivery)
            (job,) = work.journal.add([order])
            maker = None if work.cluster is None else work.cluster.of(order.recipe)
            done = run_job(work.journal, job, progress, picture, maker)
            return _Outcome(done, order.recipe, reasons, picture.notices)
    finally:
        shown.remove_task(task)


def _print_decisions(picture: Picture, recipe: Recipe, reasons: tuple[str, ...], work: _Work) -> None:
    console = work.shown.console
    if not work.as_json:
        size = recipe.size(picture.width, picture.height)
        steps = find_upscaler(recipe.upscaler).steps(recipe.factor, recipe.values)
        name = "" if picture.path is None else picture.path.name
        console.print(f"{name}: {size.width_px} × {size.height_px} px, {steps}", highlight=False, markup=False)
    for notice in (*picture.notices, *reasons):
        console.print(f"  {notice}", highlight=False, markup=False)
