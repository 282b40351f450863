"""Makes one print file from one picture: whole under its final name, or not at all."""

from __future__ import annotations

import errno
import os
import secrets
import time
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import AbstractContextManager, nullcontext, suppress
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from wamplex.core.base.atomic_files import discard
from wamplex.core.base.errors import DeliveryError, FolderError
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.convert import delivery_profile
from wamplex.core.colour.icc import SRGB, make_grey_profile, make_profile
from wamplex.core.deliver.metadata.privacy import choose_metadata
from wamplex.core.deliver.request.cmyk_profile import INKS, printer_profile
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.file_description import FileDescription
from wamplex.core.deliver.request.file_formats import FILE_FORMATS
from wamplex.core.deliver.request.linear_light import linear_colours, linear_recipe
from wamplex.core.deliver.request.naming import move_into_place, planned_path
from wamplex.core.deliver.request.samples import Samples
from wamplex.core.deliver.request.size_limits import check_disk, check_size
from wamplex.core.deliver.source_copy import copy_source
from wamplex.core.deliver.verification.read_along import read_back_while_writing
from wamplex.core.deliver.verification.verify import Check, SampleSum, checked_rows, verify
from wamplex.core.deliver.writers.dng import write_dng
from wamplex.core.deliver.writers.libvips import write_jpeg, write_png, write_webp
from wamplex.core.deliver.writers.overlap_marks import draw_marks
from wamplex.core.deliver.writers.pdf import write_print_pdf
from wamplex.core.deliver.writers.tiff import write_tiff
from wamplex.core.deliver.writers.tile_samples import LocalSampleRenderer, SampleRenderer
from wamplex.core.geometry.pages import Page, divide_into_pages
from wamplex.core.geometry.sheet import file_pixels
from wamplex.core.geometry.size_text import byte_size_text
from wamplex.core.model.picture import Depth, Metadata, Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.provenance.origin import make_origin
from wamplex.core.provenance.source_type import resulting_type, set_source_type, source_type
from wamplex.core.provenance.xmp import add_origin, read_document_id
from wamplex.core.render.plan import Plan, plan
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.upscale.networks.sessions import release_memory

_WRITERS = {
    "tiff": write_tiff,
    "png": write_png,
    "jpeg": write_jpeg,
    "webp": write_webp,
    "dng": write_dng,
    "pdf": write_print_pdf,
}
# What lies in the name itself, and does not pass.
_LASTING = (errno.ENAMETOOLONG, errno.ENOTDIR, errno.EINVAL)
# Most bytes one band of finished rows may take.
_BAND_BYTES = 1 << 28
_PIECE_BYTES = 1 << 22  # packed in less than 0.2 s
# Reading back takes about this share of the whole.
_CHECK_SHARE = 0.1


@dataclass(frozen=True)
class Delivered:
    """A file that was written and checked.

    Attributes
    ----------
    path, check : of the file, or of the first of its pages
    pages : all files, when the print was divided
    left_out : what of the source's metadata was not passed on, in words
    """

    path: Path
    check: Check
    seconds: float
    pages: tuple[Path, ...] = ()
    left_out: tuple[str, ...] = ()

    @property
    def text(self) -> str:
        """One line for the job list."""
        without = f", without {list_text(self.left_out)}" if self.left_out else ""
        if len(self.pages) < 2:
            return f"{self.check.text()}{without}"
        return f"{len(self.pages)} pages; the first {self.check.text()}{without}"


@dataclass(frozen=True)
class _Span:
    """The part of the progress that one of several files takes."""

    progress: Progress
    begin: float
    share: float

    def report(self, fraction: float, text: str) -> None:
        self.progress.report(self.begin + fraction * self.share, text)


def deliver(
    picture: Picture,
    recipe: Recipe,
    delivery: Delivery,
    progress: Progress | None = None,
    on_begin: Callable[[Path], None] | None = None,
    on_complete: Callable[[Sequence[Path]], None] | None = None,
    maker: SampleRenderer | None = None,
) -> Delivered:
    """Enlarge a picture, write the file or its pages, read back, and give the final names.

    Parameters
    ----------
    picture : the source; ``picture.path`` gives name and folder
    recipe : all decisions
    delivery : kind of file, folder and name
    progress : receives the progress; cancelling it raises `Cancelled`
    on_begin : called with each temporary file before it exists
    on_complete : called with all temporary files once they are verified
    maker : makes the tiles; None for this program itself

    Returns
    -------
    Final names, what reading back found, and the seconds it took.

    Raises
    ------
    SizeError : when format or disk cannot hold it; nothing was written
    DeliveryError : when writing failed; nothing is left
    Cancelled : when ``progress`` is cancelled; nothing is left
    """
    progress = progress or Progress()
    if picture.path is None:
        raise DeliveryError("A picture without a file cannot be delivered.")
    chosen, left_out = choose_metadata(picture.metadata, delivery.metadata)
    metadata = _with_origin(chosen, picture, recipe, delivery)
    if delivery.format == "dng":
        recipe = linear_recipe(picture, recipe, delivery)
    planned = plan(picture, recipe)
    size = planned.size
    target = planned_path(picture.path, recipe, delivery, size)
    about = describe_file(picture, recipe, delivery, metadata)
    pages = divide_into_pages(about.width, about.height, about.density_ppi, delivery.pages)
    if len(pages) == 1:
        check_size(size, delivery, recipe.sheet)
    check_disk(target.parent, size, delivery, about.channels, recipe.sheet)
    created = _prepare_folder(target.parent)
    release_memory()  # what was tried before must not count on top of what the writer holds
    started = time.monotonic()
    partials: list[Path] = []
    try:
        checks = []
        for number, page in enumerate(pages):
            # Not made of the final name, which may be as long as names can be.
            partials.append(target.with_name(f".wamplex-{secrets.token_hex(6)}.part"))
            if on_begin is not None:
                on_begin(partials[-1])
            span = _Span(progress, number / len(pages), 1 / len(pages))
            about_page = replace(about, width=page.window.width, height=page.window.height)
            if len(pages) > 1:
                about_page = replace(about_page, trim_px=0)
            checks.append(
                _write_checked(partials[-1], planned, delivery, page, about_page, span, maker or LocalSampleRenderer())
            )
        names = [target if len(pages) == 1 else _page_path(target, page) for page in pages]
        if on_complete is not None:
            on_complete(partials)
        if delivery.copy_source and picture.source is not None:
            copy_source(picture.source, target.parent)
        targets = _named(partials, names)
    except OSError as error:
        kind = DeliveryError if error.errno in _LASTING else FolderError
        raise kind(_os_error_text(target, error)) from error
    finally:
        release_memory()
        for partial in partials:
            discard(partial)
        _take_back(created)
    progress.report(1.0, "done")
    several = tuple(targets) if len(targets) > 1 else ()
    return Delivered(targets[0], checks[0], time.monotonic() - started, several, left_out)


def _write_checked(
    partial: Path,
    planned: Plan,
    delivery: Delivery,
    page: Page,
    about: FileDescription,
    span: _Span,
    maker: SampleRenderer,
) -> Check:
    """Write one page under a temporary name and read it back."""
    # JPEG changes samples, so there is nothing to compare them with.
    sums = None if delivery.format == "jpeg" else SampleSum(checked_rows(delivery.format, about))
    bands = _bands(planned, delivery, page, about, sums, span, maker)
    # TIFF is unpacked several strips at a time afterwards, and JPEG comes all at its end.
    reading: AbstractContextManager[Future[list[int]] | None] = nullcontext()
    if delivery.format == "png":
        reading = read_back_while_writing(partial, about, span.progress)
    with reading as read, ThreadPoolExecutor(1) as pool:
        _WRITERS[delivery.format](partial, _split_bands(_one_ahead(bands, pool), span.progress), about)
        span.report(1 - _CHECK_SHARE, "reading back")
    # The disk may take its time while the file is read back; the name comes after both.
    with ThreadPoolExecutor(1) as executor:
        flushed = executor.submit(_flush, partial)
        keeps_profile = delivery.profile == "source" and delivery.printer is None
        check = verify(partial, about, None if sums is None else sums.sums(), keeps_profile, span.progress, read)
        flushed.result()
    return check


def _named(partials: list[Path], names: list[Path]) -> list[Path]:
    """All files under their final names, or none."""
    targets: list[Path] = []
    try:
        for partial, name in zip(partials, names, strict=True):
            targets.append(move_into_place(partial, name))
    except OSError:
        for target in targets:
            discard(target)
        raise
    return targets


def _page_path(target: Path, page: Page) -> Path:
    return target.with_name(f"{target.stem}-row{page.row}-column{page.column}{target.suffix}")


_NO_METADATA = Metadata()


def describe_file(
    picture: Picture, recipe: Recipe, delivery: Delivery, metadata: Metadata = _NO_METADATA
) -> FileDescription:
    """The file a recipe makes of a picture.

    Parameters
    ----------
    picture : the decoded picture
    recipe : all decisions about the picture
    delivery : kind of file, folder and name
    metadata : of the file

    Returns
    -------
    Pixels, channels, depth, density, profile and metadata of the file to be.
    """
    width, height = file_pixels(recipe.size(picture.width, picture.height), recipe.sheet)
    linear = linear_colours(picture, recipe) if delivery.format == "dng" else None
    separation = printer_profile(delivery)
    alpha = picture.alpha is not None and FILE_FORMATS[delivery.format].alpha and separation is None
    depth: Depth = FILE_FORMATS[delivery.format].depth(delivery.depth)
    threefold = linear is not None or delivery.format == "webp"
    return FileDescription(
        width=width,
        height=height,
        channels=INKS if separation else (3 if threefold else picture.pixels.shape[2]) + alpha,
        alpha=alpha,
        depth=depth,
        density_ppi=recipe.density_ppi,
        profile=separation or (None if linear else _profile(picture, delivery)),
        metadata=metadata,
        compression=delivery.compression,
        quality=delivery.quality,
        chroma=delivery.chroma,
        progressive=delivery.progressive,
        linear=linear,
        trim_px=0 if recipe.sheet is None else round(recipe.sheet.bleed_mm / 25.4 * recipe.density_ppi),
    )


def _profile(picture: Picture, delivery: Delivery) -> bytes | None:
    """Grey as three equal channels has no profile of its own, but goes by that of sRGB."""
    if delivery.format == "webp" and picture.pixels.shape[2] == 1:
        return None if delivery.profile == "source" and picture.profile is None else make_profile(SRGB)
    profile = delivery_profile(picture, delivery.profile)
    if profile is None and delivery.format == "pdf":  # without one, colours would be the printer's guess
        return make_grey_profile(SRGB) if picture.pixels.shape[2] == 1 else make_profile(SRGB)
    return profile


def _with_origin(metadata: Metadata, picture: Picture, recipe: Recipe, delivery: Delivery) -> Metadata:
    """Metadata of the file: of the source, as chosen, and the origin."""
    if delivery.keep_recipe and picture.source is not None:
        origin = make_origin(picture.source, recipe, read_document_id(picture.metadata.xmp))
        metadata = replace(metadata, xmp=add_origin(metadata.xmp, origin))
    term = result_source_type(recipe, picture.metadata.xmp) if delivery.source_type else None
    return metadata if term is None else replace(metadata, xmp=set_source_type(metadata.xmp, term))


def result_source_type(recipe: Recipe, source_xmp: bytes | None) -> str | None:
    """The digital source type of a result.

    Parameters
    ----------
    recipe : all decisions about the picture
    source_xmp : XMP of the source

    Returns
    -------
    Address of the term; None where nothing is stated.
    """
    layers = [layer.source_trial for layer in recipe.layers if layer.source_trial is not None]
    faces = [recipe.faces.source_trial] if recipe.faces is not None and recipe.faces.source_trial is not None else []
    trials = [(spec, find_upscaler(spec.upscaler)) for spec in (recipe.base, *layers, *faces)]
    return resulting_type(
        source_type(source_xmp),
        learned=any(upscaler.kind == "learned" for _, upscaler in trials),
        invented=any(
            upscaler.kind == "guest" or ("texture_strength" in upscaler.values and spec.values.texture_strength > 0)
            for spec, upscaler in trials
        ),
    )


def _bands(
    planned: Plan,
    delivery: Delivery,
    page: Page,
    about: FileDescription,
    sums: SampleSum | None,
    span: _Span,
    maker: SampleRenderer,
) -> Iterator[Samples]:
    """Finished bands of a page from top to bottom, each made tile by tile."""
    dtype = np.uint16 if about.depth == 16 else np.uint8
    row_bytes = about.width * about.channels * about.depth // 8
    tile_columns, tile_rows = planned.tile
    rows = max(1, min(tile_rows, _BAND_BYTES // row_bytes))
    left, top = page.window.x, page.window.y
    started = time.monotonic()
    bands = list(Window(0, 0, about.width, about.height).tiles(about.width, rows))
    all_tiles = [tile for band in bands for tile in band.tiles(tile_columns, band.height)]
    places = [Window(left + tile.x, top + tile.y, tile.width, tile.height) for tile in all_tiles]
    tiles = maker.tiles(planned, delivery, about, places, span.progress)
    for band in bands:
        samples = np.empty((band.height, band.width, about.channels), dtype)
        for tile in band.tiles(tile_columns, band.height):
            samples[:, tile.x : tile.right] = next(tiles)
            done = (band.y * band.width + tile.right * band.height) / (about.width * about.height)
            text = time_left_text(time.monotonic() - started, done)
            span.report(done * (1 - _CHECK_SHARE), text)
        draw_marks(samples, band, page, about.density_ppi, about.channels - about.alpha)
        if sums is not None:
            sums.add(samples)
        yield samples


def _one_ahead(bands: Iterator[Samples], pool: ThreadPoolExecutor) -> Iterator[Samples]:
    """The same bands, the next one being made while the writer still encodes the last."""
    coming = pool.submit(next, bands, None)
    while (band := coming.result()) is not None:
        coming = pool.submit(next, bands, None)
        yield band


def _split_bands(bands: Iterator[Samples], progress: Progress) -> Iterator[Samples]:
    """The same in pieces of some rows: a writer that is busy with a band hears of nothing till its end."""
    for band in bands:
        rows = max(1, _PIECE_BYTES // band[0].nbytes)
        for top in range(0, len(band), rows):
            progress.check()
            yield band[top : top + rows]


def list_text(parts: Sequence[str]) -> str:
    """Join parts as a sentence does.

    Parameters
    ----------
    parts : at least one

    Returns
    -------
    Such as "a, b and c".
    """
    *rest, last = parts
    return f"{', '.join(rest)} and {last}" if rest else last


def time_left_text(elapsed_s: float, done: float) -> str:
    """“enlarging, about 12 s left”, once there is enough to go by.

    Parameters
    ----------
    elapsed_s : seconds since the start
    done : fraction that is done

    Returns
    -------
    Text for the job list; “enlarging” until the estimate is reliable.
    """
    if done <= 0 or elapsed_s < 1:
        return "enlarging"
    left = elapsed_s / done - elapsed_s
    text = f"{max(1, round(left))} s" if left < 90 else f"{round(left / 60)} min"
    return f"enlarging, about {text} left"


def _prepare_folder(folder: Path) -> list[Path]:
    """Make a folder; those that were not there before, the innermost first."""
    missing = [one for one in (folder, *folder.parents) if not os.path.exists(one)]
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        kind = DeliveryError if error.errno in _LASTING else FolderError
        raise kind(f"The folder {folder} cannot be created: {_reason(error)}.") from error
    if not os.access(folder, os.W_OK):
        raise FolderError(f"{folder} is not writable. Choose another folder.")
    return missing


def _take_back(folders: list[Path]) -> None:
    """Remove folders that were made and are still empty: nothing was written."""
    for folder in folders:
        with suppress(OSError):
            folder.rmdir()


def _flush(path: Path) -> None:
    """See that the bytes are on the disk before the file gets its name."""
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _os_error_text(target: Path, error: OSError) -> str:
    if error.errno == errno.ENOSPC:
        free = byte_size_text(os.statvfs(target.parent).f_bavail * os.statvfs(target.parent).f_frsize)
        return f"The disk is full: {target.name} was not written. {free} are free in {target.parent}."
    return f"{target.name} was not written: {_reason(error)}."


def _reason(error: OSError) -> str:
    return (error.strerror or str(error)).lower()
