"""Enlarges an arrived picture and moves it away, exactly once."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from wamplex.core.analysis.report.suggestion import measure_and_suggest
from wamplex.core.base.atomic_files import is_process_alive, write_atomically
from wamplex.core.base.errors import Cancelled, WamplexError, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.naming import move_into_place, planned_path
from wamplex.core.deliver.request.size_limits import expected_bytes
from wamplex.core.intake.read import read_picture
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.provenance.origin import make_origin
from wamplex.core.provenance.recipe_reader import read_xmp
from wamplex.core.provenance.xmp import read_document_id, read_instance_id
from wamplex.core.trial.developed_picture import develop_picture
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.workflow.queue.job import State
from wamplex.core.workflow.queue.journal import Journal, Planned
from wamplex.core.workflow.queue.run_job import CANCELLED_WORDS, run_job

DONE, FAILED = "done", "failed"
_NO_MEMORY = "There is not enough memory for this picture."


@dataclass(frozen=True)
class WatchOptions:
    """What is done to each picture.

    Attributes
    ----------
    measured : whether upscaler values are measured anew for each, instead of those of the recipe
    """

    recipe: Recipe
    delivery: Delivery
    measured: bool = False


def forget_interrupted(journal: Journal, folder: Path) -> None:
    """Jobs for this folder of a program that was cut off: their pictures still lie there, and come again."""
    for owner, job in journal.jobs():
        if job.source.path.parent != folder or is_process_alive(owner) or not journal.take(job.number, owner):
            continue
        for path in journal.partials(job.number):
            path.unlink(missing_ok=True)
        journal.update(job.number, State.CANCELLED, CANCELLED_WORDS)


def enlarge_one(path: Path, options: WatchOptions, journal: Journal, progress: Progress) -> Path:
    """Make the file of a picture, unless it was made already; the source is put away either way.

    Returns
    -------
    The file.

    Raises
    ------
    Cancelled : when ``progress`` is cancelled; the picture stays where it is
    WamplexError : when it cannot be made; the picture is put away with a note
    """
    try:
        outcome = _enlarge(path, options, journal, progress)
    except Cancelled:
        raise
    except Exception as error:
        sentence = user_message(error, _NO_MEMORY)
        moved_to = _put_away(path, FAILED)
        write_atomically(moved_to.with_name(f"{moved_to.name}.txt"), f"{sentence}\n".encode())
        raise WamplexError(sentence) from error
    _put_away(path, DONE)
    return outcome


def _enlarge(path: Path, options: WatchOptions, journal: Journal, progress: Progress) -> Path:
    picture = develop_picture(read_picture(path, progress), options.recipe, progress)
    assert picture.source is not None
    recipe = _measured(picture, options.recipe, progress) if options.measured else options.recipe
    size = recipe.size(picture.width, picture.height)
    planned = planned_path(path, recipe, options.delivery, size)
    if planned.exists() and _is_of(planned, picture, recipe):
        return planned
    expected = expected_bytes(size, options.delivery, picture.channels, recipe.sheet)
    (job,) = journal.add([Planned(picture.source, recipe, options.delivery, planned, expected)])
    return run_job(journal, job, progress, picture).path


def _measured(picture: Picture, recipe: Recipe, progress: Progress) -> Recipe:
    values = measure_and_suggest(picture, progress).values_for(find_upscaler(recipe.upscaler).values)
    return recipe.replace(base=recipe.base.replace(values=values))


def _is_of(planned: Path, picture: Picture, recipe: Recipe) -> bool:
    """Whether a file is the very one that would be made: a power cut may have come before it was noted."""
    assert picture.source is not None
    try:
        instance = read_instance_id(read_xmp(planned))
    except WamplexError:
        return False
    return instance == make_origin(picture.source, recipe, read_document_id(picture.metadata.xmp)).instance_id


def _put_away(path: Path, where: str) -> Path:
    folder = path.parent / where
    folder.mkdir(exist_ok=True)
    return move_into_place(path, folder / path.name)
