"""Takes up what a program left undone that ended in the middle of its work."""

from __future__ import annotations

from wamplex.core.files import runs
from wamplex.core.jobs.job import Job
from wamplex.core.jobs.journal import Journal


def recover(journal: Journal) -> list[Job]:
    """Jobs of programs that no longer run, now this program's; their half-written files are taken away.

    Returns
    -------
    In the order they were asked for, all waiting.
    """
    found = []
    for owner, job in journal.jobs():
        if runs(owner) or not journal.take(job.number, owner):
            continue
        for path in journal.partials(job.number):
            path.unlink(missing_ok=True)
        journal.forget_partials(job.number)
        found.append(job)
    return found


def left_undone(journal: Journal) -> int:
    """How many jobs there are of programs that no longer run."""
    return sum(1 for owner, _ in journal.jobs() if not runs(owner))
