"""Resumes the jobs of a program that was interrupted."""

from __future__ import annotations

import shutil
from pathlib import Path

from wamplex.core.base.atomic_files import discard
from wamplex.core.base.process_identity import is_identity_alive
from wamplex.core.workflow.queue.job import Job, State
from wamplex.core.workflow.queue.journal import Journal

# Of folders that hold a file until it replaces the one that another program handed over.
HAND_OVER_PREFIX = ".wamplex-hand-over-"
_MADE_WORDS = "finished before the interruption"


def recover_jobs(journal: Journal) -> list[Job]:
    """Take over the jobs of programs that no longer run, and remove their half-written files.

    A file that was already moved into place is not written twice.

    Parameters
    ----------
    journal : the list of jobs

    Returns
    -------
    In the order they were asked for, all waiting.
    """
    jobs = []
    for owner, job in journal.jobs():
        if is_identity_alive(owner) or not journal.take(job.number, owner):
            continue
        if _is_hand_over(job):  # the other program does not wait for it any more
            shutil.rmtree(job.planned.parent, ignore_errors=True)
            journal.give_up([job.number])
            continue
        partials = journal.partials(job.number)
        named = _named(journal.completed_files(job.number), partials)
        for path in partials:
            discard(path)
        if named and len(named) == len(journal.completed_files(job.number)):
            journal.update(job.number, State.DONE, _MADE_WORDS, named[0], named[0].stat().st_size)
            continue
        for path in named:  # some pages of several: all are made again
            discard(path)
        journal.forget_partials(job.number)
        jobs.append(job)
    return jobs


def unfinished_jobs(journal: Journal) -> int:
    """Count the jobs of programs that no longer run.

    Parameters
    ----------
    journal : the list of jobs

    Returns
    -------
    Number of jobs.
    """
    return sum(1 for owner, job in journal.jobs() if not is_identity_alive(owner) and not _is_hand_over(job))


def _is_hand_over(job: Job) -> bool:
    return job.planned.parent.name.startswith(HAND_OVER_PREFIX)


def _named(inodes: list[tuple[int, int, Path]], partials: list[Path]) -> list[Path]:
    """Files that were written and checked, under the names they have got."""
    named = []
    for device, inode, folder in inodes:
        for path in folder.iterdir() if folder.is_dir() else ():
            status = path.lstat()
            if (status.st_dev, status.st_ino) == (device, inode) and path not in partials:
                named.append(path)
                break
    return named
