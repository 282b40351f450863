"""Enlarges an arrived picture and moves it away, exactly once."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path

from wamplex.core.analysis.suggestion.suggestion import measure_and_suggest
from wamplex.core.base.atomic_files import discard, write_atomically
from wamplex.core.base.errors import Cancelled, CannotWorkNowError, MissingFileError, WamplexError, user_message
from wamplex.core.base.process_identity import is_identity_alive
from wamplex.core.base.progress import Progress
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.naming import free_path, move_into_place
from wamplex.core.intake.probe import Probe, probe
from wamplex.core.intake.read import read_picture
from wamplex.core.model.opened_source import open_source
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.provenance.origin import make_origin
from wamplex.core.provenance.recipe_reader import read_xmp
from wamplex.core.provenance.xmp import read_document_id, read_instance_id
from wamplex.core.trial.developed_picture import develop_picture
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.workflow.orders.order import Order, create_order
from wamplex.core.workflow.queue.job import State
from wamplex.core.workflow.queue.journal import Journal
from wamplex.core.workflow.queue.run_job import CANCELLED_WORDS, run_job
from wamplex.core.workflow.recipe_transfer.sourced_recipe import SourcedRecipe, fit_recipe
from wamplex.core.workflow.recipe_transfer.transfer import Part

DONE, FAILED = "done", "failed"
_MOST_NAME_BYTES = 255  # of Linux
_NO_MEMORY = "There is not enough memory for this picture."


@dataclass(frozen=True)
class WatchOptions:
    """What is done to each picture.

    Attributes
    ----------
    recipe : counts for every picture, without what belongs to its own
    measured : whether upscaler values are measured anew for each, instead of those of the recipe
    """

    recipe: SourcedRecipe
    delivery: Delivery
    measured: bool = False


@dataclass(frozen=True)
class ArrivalResult:
    """The file of a picture, and what of the recipe did not fit the picture, in sentences."""

    path: Path
    notes: tuple[str, ...] = ()


def forget_interrupted(journal: Journal, folder: Path) -> None:
    """Jobs for this folder of a program that was cut off: their pictures still lie there, and come again.

    Parameters
    ----------
    journal : the list of jobs
    folder : the watched folder
    """
    for owner, job in journal.jobs():
        if job.source.path.parent != folder or is_identity_alive(owner) or not journal.take(job.number, owner):
            continue
        for path in journal.partials(job.number):
            discard(path)
        journal.update(job.number, State.CANCELLED, CANCELLED_WORDS)


def enlarge_one(path: Path, options: WatchOptions, journal: Journal, progress: Progress) -> ArrivalResult:
    """Enlarge an arrived picture unless its file exists already, then move it to done/ or failed/.

    Parameters
    ----------
    path : a picture that has arrived completely
    options : what is done to each picture
    journal : the list of jobs
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    The file, and what of the recipe did not fit the picture.

    Raises
    ------
    Cancelled : when ``progress`` is cancelled; the picture stays where it is
    CannotWorkNowError : when the disk or the folder is the reason; the picture stays where it is
    WamplexError : when it cannot be enlarged; the picture is put away with a note
    """
    try:
        result = _enlarge(path, options, journal, progress)
    except (Cancelled, CannotWorkNowError):
        raise
    except MissingFileError as error:
        if path.exists():  # the disk lost sight of a file for a moment
            raise CannotWorkNowError(str(error)) from error
        raise
    except Exception as error:
        sentence = user_message(error, _NO_MEMORY)
        raise WamplexError(sentence + _put_away(path, FAILED, sentence)) from error
    unmoved = _put_away(path, DONE)
    return ArrivalResult(result.path, (*result.notes, unmoved.strip()) if unmoved else result.notes)


def _enlarge(path: Path, options: WatchOptions, journal: Journal, progress: Progress) -> ArrivalResult:
    opened = open_source(path)
    header, picture = probe(opened), read_picture(opened, progress)
    recipe, notes = _decide(header, picture, options, progress)
    order = create_order(header, recipe, options.delivery)
    if order.planned.exists() and _is_of(order, picture):
        return ArrivalResult(order.planned, notes)
    (job,) = journal.add([order])
    return ArrivalResult(run_job(journal, job, progress, picture).path, notes)


def _decide(
    header: Probe, picture: Picture, options: WatchOptions, progress: Progress
) -> tuple[Recipe, tuple[str, ...]]:
    picture = develop_picture(picture, options.recipe.recipe, progress)
    parts: frozenset[Part] = frozenset({"developing", "size", "trial", "finish"})
    recipe, notes = fit_recipe(
        options.recipe, Recipe(), parts, header, picture, lambda: measure_and_suggest(picture, progress), progress
    )
    if options.measured:
        heeded = find_upscaler(recipe.upscaler).values
        suggested = measure_and_suggest(picture, progress, faces="protected" in heeded)
        recipe = recipe.replace(base=recipe.base.replace(values=suggested.values_for(recipe.upscaler, heeded)))
    return recipe, notes


def _is_of(order: Order, picture: Picture) -> bool:
    """Whether the file of an order is there: the power may have failed before the journal was told."""
    try:
        instance = read_instance_id(read_xmp(order.planned))
    except (CannotWorkNowError, MissingFileError):
        raise  # it may be the one: made again, the result would be there twice
    except WamplexError:
        return False
    return instance == make_origin(order.source, order.recipe, read_document_id(picture.metadata.xmp)).instance_id


def _put_away(path: Path, where: str, note: str = "") -> str:
    """Move a picture to a subfolder, with a note beside it if there is one.

    Returns
    -------
    Why it could not be moved, as a sentence with a space before it; empty where all went well.
    """
    target = path.parent / where / path.name
    try:
        target.parent.mkdir(exist_ok=True)
        if note:
            _move_with_note(path, free_path(target), note)
        else:
            move_into_place(path, target)
    except OSError as error:
        reason = (error.strerror or str(error)).lower()
        return f" It could not be moved to {where}: {reason}."
    return ""


def _move_with_note(path: Path, target: Path, note: str) -> None:
    """The note comes first: no picture lies among the failed ones without its reason."""
    note_path = _note_path(target)
    write_atomically(note_path, f"{note}\n".encode())
    try:
        move_into_place(path, target)
    except OSError:
        discard(note_path)
        raise


def _note_path(picture: Path) -> Path:
    """Beside the picture; a name that would be too long is shortened."""
    name = f"{picture.name}.txt"
    if len(os.fsencode(name)) > _MOST_NAME_BYTES:
        name = f"{os.fsdecode(os.fsencode(picture.stem)[: _MOST_NAME_BYTES - 20])}….txt"
    return picture.with_name(name)
