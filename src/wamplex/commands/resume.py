"""``wamplex resume``: resumes interrupted jobs."""

from __future__ import annotations

import typer
from rich.progress import Progress as Bars

from wamplex.commands import SOME_FAILED
from wamplex.commands.console import print_error, print_notices, progress_bars
from wamplex.commands.stopping import Stopping
from wamplex.core.base.errors import Cancelled
from wamplex.core.base.progress import Progress
from wamplex.core.workflow.queue.job import Job
from wamplex.core.workflow.queue.journal import Journal, journal_path
from wamplex.core.workflow.queue.recovery import recover_jobs
from wamplex.core.workflow.queue.run_job import failure_text, run_job


def resume() -> None:
    """Resume interrupted jobs."""
    journal = Journal(journal_path())
    jobs = recover_jobs(journal)
    print_notices(journal)
    if not jobs:
        print("No interrupted jobs.")
        return
    with Stopping() as stopping, progress_bars(False) as shown:
        ended_well = [_do(journal, job, shown, stopping) for job in jobs]
    if not all(ended_well):
        raise typer.Exit(SOME_FAILED)


def _do(journal: Journal, job: Job, shown: Bars, stopping: Stopping) -> bool:
    task = shown.add_task(job.planned.name, total=1.0, words="reading")
    progress = Progress(lambda fraction, words: shown.update(task, completed=fraction, words=words))
    try:
        with stopping.cancels(progress):
            done = run_job(journal, job, progress)
    except Cancelled as error:
        raise typer.Exit(stopping.exit_code) from error
    except Exception as error:
        print_error(failure_text(error))
        return False
    finally:
        shown.remove_task(task)
    shown.console.print(f"  {done.path}\n  {done.text}", highlight=False, markup=False, soft_wrap=True)
    return True
