"""Caches rendered trials while masks are painted, so that a stroke runs no network."""

from __future__ import annotations

import threading
from collections import OrderedDict

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Pixels
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.upscale.stages.stage import FollowingStage, Stage, cache_stage

_MOST_BYTES = 500_000_000
_Key = tuple[Source, Recipe]


class StageCache:
    """Windows of trials, the ones used last; safe to use from any thread.

    Parameters
    ----------
    max_count : bytes that are kept
    """

    def __init__(self, max_count: int = _MOST_BYTES) -> None:
        self._cached: OrderedDict[tuple[_Key, Window], Pixels] = OrderedDict()
        self._bytes = 0
        self._max_count = max_count
        self._lock = threading.Lock()

    def find(self, key: _Key, window: Window) -> Pixels | None:
        """Pixels of a window, where it lies in one that is remembered."""
        with self._lock:
            for (own, around), pixels in reversed(self._cached.items()):
                if own == key and around.holds(window):
                    self._cached.move_to_end((own, around))
                    y, x = window.y - around.y, window.x - around.x
                    return pixels[y : y + window.height, x : x + window.width]
        return None

    def put(self, key: _Key, window: Window, pixels: Pixels) -> None:
        """Remember a window."""
        with self._lock:
            if (key, window) in self._cached:
                return
            self._cached[key, window] = pixels
            self._bytes += pixels.nbytes
            while self._bytes > self._max_count and len(self._cached) > 1:
                self._bytes -= self._cached.popitem(last=False)[1].nbytes


class CachedStage(FollowingStage):
    """A trial whose windows are remembered.

    Attributes
    ----------
    prefers_full : better asked for a whole window than for the part that a mask happens to reach today
    """

    prefers_full = True

    def __init__(self, before: Stage, memory: StageCache, key: _Key) -> None:
        self.width, self.height = before.width, before.height
        self._before, self._memory, self._key = before, memory, key

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window; not to be written to."""
        pixels = self._memory.find(self._key, window)
        if pixels is None:
            pixels = cache_stage(self._before.render(window, progress))
            self._memory.put(self._key, window, pixels)
        return pixels
