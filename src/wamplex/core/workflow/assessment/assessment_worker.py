"""The worker process that measures pictures.

Run as a module with DESCRIPTOR, it takes orders from a connection on that file descriptor.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from wamplex.core.analysis.report.condition import Condition
from wamplex.core.base.errors import Cancelled, SourceChangedError, UnreadablePictureError, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.model.development import Development
from wamplex.core.model.source import Source
from wamplex.core.upscale.networks.execution import Execution, use_execution
from wamplex.core.workflow.assessment.condition_rows import make_evidence_crops, measure_rows
from wamplex.core.workflow.assessment.tray_preview import NO_MEMORY, make_tray_preview
from wamplex.core.workflow.subprocess.worker_main import Say, run_worker

_SAID_ELSEWHERE = (UnreadablePictureError, SourceChangedError, MemoryError)


def main() -> None:
    """Serve until the program is done with it, or gone."""
    store = PictureCache(0)  # the last one: its small pictures may be wanted again

    def rows(
        say: Say, progress: Progress, source: Source, development: Development | None, execution: Execution
    ) -> None:
        use_execution(execution)
        for condition, cutouts in measure_rows(store, source, development, progress):
            say("row", condition, cutouts)
        say("done")

    def cutouts(say: Say, progress: Progress, source: Source, condition: Condition) -> None:
        say("made", make_evidence_crops(store, source, condition, progress))

    run_worker({"rows": _report_to(rows), "cutouts": _report_to(cutouts), "small": _small})


def _small(say: Say, _progress: Progress, path: Path) -> None:
    try:
        preview = make_tray_preview(path)
    except Exception as error:
        say("failed", user_message(error, NO_MEMORY))
    else:
        say("looked", preview)


def _report_to(work: Callable[..., None]) -> Callable[..., None]:
    """The same; what stops it is said."""

    def reported(say: Say, *message_part: object) -> None:
        try:
            work(say, *message_part)
        except Cancelled:
            say("cancelled")
        except _SAID_ELSEWHERE:
            say("failed", "")
        except Exception as error:
            say("failed", user_message(error, ""))

    return reported


if __name__ == "__main__":
    main()
