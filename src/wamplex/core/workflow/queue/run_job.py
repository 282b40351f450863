"""Runs one job: read, enlarge, write, verify, record the result."""

from __future__ import annotations

import threading
from functools import partial
from pathlib import Path

from wamplex.core.base.errors import Cancelled, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.deliver.deliver import Delivered, deliver
from wamplex.core.deliver.writers.tile_samples import SampleRenderer
from wamplex.core.intake.read import read_picture
from wamplex.core.model.opened_source import open_source
from wamplex.core.model.picture import Picture
from wamplex.core.trial.developed_picture import develop_picture
from wamplex.core.workflow.lineage.result_folders import remember_folder
from wamplex.core.workflow.queue.job import Job, State
from wamplex.core.workflow.queue.journal import Journal
from wamplex.core.workflow.queue.throughput import record_throughput

_NOTING = threading.Lock()
CANCELLED_WORDS = "cancelled, no file was written"
_NO_MEMORY = "There is not enough memory for this picture. Close others and retry."


def run_job(
    journal: Journal,
    job: Job,
    progress: Progress,
    picture: Picture | None = None,
    maker: SampleRenderer | None = None,
    *,
    at_once: int = 1,
    final_folder: Path | None = None,
) -> Delivered:
    """Write the file of a job.

    Parameters
    ----------
    journal : the list of jobs
    job : as the journal has it
    progress : receives the progress; cancelling it raises `Cancelled`
    picture : the source, where it has been read already
    maker : makes the tiles; None for this program itself
    at_once : how many jobs run, this one among them
    final_folder : where the caller moves the file to; None where it stays

    Returns
    -------
    The verified file.

    Raises
    ------
    SourceChangedError : when the source is no longer the file that was judged
    WamplexError, Cancelled : as `deliver`
    """
    journal.update(job.number, State.RUNNING, "reading")
    try:
        job.source.check()  # what was judged is delivered, or nothing
        if picture is None or picture.source != job.source:
            picture = read_picture(open_source(job.source), progress)
        picture = develop_picture(picture, job.recipe, progress)
        noted = partial(journal.note_partial, job.number)
        on_complete = partial(journal.record_complete, job.number)
        done = deliver(
            picture, job.recipe, job.delivery, progress, on_begin=noted, on_complete=on_complete, maker=maker
        )
    except Cancelled:
        journal.update(job.number, State.CANCELLED, CANCELLED_WORDS)
        raise
    except Exception as error:
        journal.update(job.number, State.FAILED, user_message(error, _NO_MEMORY))
        raise
    with _NOTING:
        remember_folder(final_folder or done.path.parent)
        record_throughput(job.recipe, done.check.width * done.check.height / 1e6, done.seconds / at_once)
    journal.update(job.number, State.DONE, done.text, done.path, done.check.file_bytes)
    return done


def failure_text(error: Exception) -> str:
    """Why a job failed, for the user.

    Parameters
    ----------
    error : what happened

    Returns
    -------
    A sentence.
    """
    return user_message(error, _NO_MEMORY)
