"""Where files are decoded: in this process, or in another one that may crash in its place."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol, TypeVar

from wamplex.core.base.progress import Progress
from wamplex.core.model.opened_source import OpenedSource

T = TypeVar("T")


class Runner(Protocol):
    """Runs a function that decodes; see `run_decoder`."""

    def __call__(self, function: Callable[..., T], opened: OpenedSource, progress: Progress, *parts: Any) -> T:
        """Run it."""


_chosen: list[Runner] = []


def use_decoder(runner: Runner | None) -> None:
    """Have every picture of this process decoded elsewhere.

    Parameters
    ----------
    runner : runs a function in another process; None for this process itself
    """
    _chosen[:] = [] if runner is None else [runner]


def run_decoder(function: Callable[..., T], opened: OpenedSource, progress: Progress, *parts: Any) -> T:
    """Run a function that decodes, where decoding takes place.

    Parameters
    ----------
    function : called with the source, the progress and the parts; of a module, so that another process
        finds it by its name
    opened : the source it decodes
    progress : receives the progress; cancelling it raises `Cancelled`
    parts : further arguments; they can be pickled, as the result can

    Returns
    -------
    What the function returns.

    Raises
    ------
    UnreadablePictureError : when the file cannot be decoded, or crashes the other process
    Cancelled : when ``progress`` is cancelled
    """
    return _chosen[0](function, opened, progress, *parts) if _chosen else function(opened, progress, *parts)
