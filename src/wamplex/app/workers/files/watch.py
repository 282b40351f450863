"""Notices when files of the tray change on disk."""

from __future__ import annotations

import threading
from pathlib import Path

from PySide6.QtCore import QObject, QThread, Signal

from wamplex.core.base.errors import UnreadablePictureError
from wamplex.core.model.source import Source

# Between two looks; a file is told of once it stays as it is over two of them, so that it is whole.
LOOK_EVERY_S = 0.7


class SourceWatch(QThread):
    """Looks at all files again and again; it asks the file system, since not every one of them tells."""

    changed = Signal(object)  # path

    def __init__(self, parent: QObject | None = None, *, every_s: float = LOOK_EVERY_S) -> None:
        super().__init__(parent)
        self._every_s = every_s
        self._known: dict[Path, Source | None] = {}
        self._lock = threading.Lock()
        self._ending = threading.Event()

    def watch(self, sources: list[Source]) -> None:
        """Watch these sources; a signal tells when one changes, vanishes or returns."""
        with self._lock:
            before = self._known
            self._known = {s.path: s for s in sources}
            # What was told of is not told again before it has been read.
            for path, source in before.items():
                if source is None and path in self._known:
                    self._known[path] = None

    def end(self) -> None:
        """Stop the thread."""
        self._ending.set()
        self.wait()

    def run(self) -> None:
        """The thread's work."""
        last: dict[Path, Source | None] = {}
        while not self._ending.wait(self._every_s):
            with self._lock:
                states = dict(self._known)
            states_before = {path: _now(path) for path in states}
            for path, now in states_before.items():
                if now != states[path] and path in last and last[path] == now:
                    with self._lock:
                        self._known[path] = now
                    self.changed.emit(path)
            last = states_before


def _now(path: Path) -> Source | None:
    try:
        return Source.of(path)
    except UnreadablePictureError:
        return None
