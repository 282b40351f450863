"""The worker process that makes files.

Run as a module with DESCRIPTOR JOURNAL OWNER, it takes orders from a connection on that file descriptor.
When the program is gone, the journal knows what was not finished.
"""

from __future__ import annotations

import sys
from pathlib import Path

from wamplex.core.base.errors import Cancelled
from wamplex.core.base.malloc import spare_time
from wamplex.core.base.progress import Progress
from wamplex.core.model.assets import process_assets
from wamplex.core.upscale.networks.execution import Execution, use_execution
from wamplex.core.workflow.queue.job import Job
from wamplex.core.workflow.queue.journal import Journal
from wamplex.core.workflow.queue.run_job import failure_text, run_job
from wamplex.core.workflow.subprocess.worker_main import Say, run_worker


def main() -> None:
    """Serve until the program is done with it, or gone."""
    journal = Journal(Path(sys.argv[2]), sys.argv[3])

    def make(say: Say, progress: Progress, job: Job, at_once: int, execution: Execution, parts: list[bytes]) -> None:
        use_execution(execution)
        for data in parts:
            process_assets().put(data)
        try:
            with spare_time():
                done = run_job(journal, job, progress, at_once=at_once)
        except Cancelled:
            say("cancelled")
        except Exception as error:
            say("failed", failure_text(error))
        else:
            say("made", done)

    def cancelled(paused: bool) -> None:
        if paused:
            journal.pause()

    run_worker({"make": make}, cancelled)


if __name__ == "__main__":
    main()
