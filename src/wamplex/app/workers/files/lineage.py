"""Finds the results of sources and the sources of results, off the GUI thread."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import Signal

from wamplex.app.workers.latest import LatestRequests
from wamplex.app.workers.thread_priority import lower_priority
from wamplex.core.base.errors import Cancelled
from wamplex.core.base.progress import Progress
from wamplex.core.model.source import Source
from wamplex.core.workflow.lineage.result_folders import known_folders
from wamplex.core.workflow.lineage.results import find_result_file, find_results, find_source


@dataclass(frozen=True)
class SearchResults:
    """What was made of a source?"""

    source: Source


@dataclass(frozen=True)
class SearchSource:
    """Request: find the source of a result."""

    path: Path


class LineageFinder(LatestRequests["SearchResults | SearchSource"]):
    """Searches files, one request after the other."""

    results_found = Signal(object, object)  # Source, tuple of Made
    source_found = Signal(object, object)  # path of the result; path of its source, or None

    def begin(self) -> None:
        """Nobody waits for it."""
        lower_priority()

    def also(self, search: SearchResults | SearchSource) -> None:
        """Search for this too."""
        with self._wake:
            self._waiting.append(search)
            self._total += 1
            self._wake.notify()

    def make(self, request: SearchResults | SearchSource, done: int, total: int, progress: Progress) -> None:
        """Search."""
        try:
            if isinstance(request, SearchResults):
                self.results_found.emit(request.source, find_results(request.source, known_folders(), progress))
                return
            result_file = find_result_file(request.path)
            source = None if result_file is None else find_source(result_file, known_folders(), progress)
            self.source_found.emit(request.path, source)
        except Cancelled:
            return
