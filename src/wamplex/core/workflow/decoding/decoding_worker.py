"""The worker process that decodes pictures.

Run as a module with DESCRIPTOR, it takes orders from a connection on that file descriptor.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from typing import Any

from wamplex.core.base.errors import Cancelled, WamplexError, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.model.opened_source import OpenedSource
from wamplex.core.model.source import Source
from wamplex.core.workflow.decoding.shared_picture import write_shared
from wamplex.core.workflow.subprocess.worker_main import Say, run_worker


def main() -> None:
    """Serve until the program is done with it, or gone."""
    # Another start would cost half a second, and waiting costs no more than its memory.
    run_worker({"decode": _decode}, idle_s=None)


def _decode(
    say: Say, progress: Progress, function: Callable[..., Any], source: Source, copy: str, memory: str, *parts: Any
) -> None:
    try:
        opened = OpenedSource(source, os.open(copy, os.O_RDONLY))
        result = function(opened, progress, *parts)
        descriptor = os.open(memory, os.O_RDWR)
        try:
            shared = write_shared(result, descriptor)
        finally:
            os.close(descriptor)
    except Cancelled:
        say("cancelled")
    except WamplexError as error:
        say("failed", error)
    except MemoryError:
        say("no memory")
    except Exception as error:
        say("failed", WamplexError(user_message(error, "")))
    else:
        say("decoded", *shared)


if __name__ == "__main__":
    main()
