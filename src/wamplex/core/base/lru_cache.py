"""A cache of a few expensive values, least recently used first out."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, TypeVar

_T = TypeVar("_T")


class LruCache:
    """Safe to use from any thread; two that ask for the same at once wait for one making."""

    def __init__(self, max_count: int) -> None:
        self._max_count = max_count
        self._values: OrderedDict[Hashable, Any] = OrderedDict()
        self._lock = threading.RLock()  # what is made may be made of another value

    def __reduce__(self) -> tuple[type[LruCache], tuple[int]]:
        """Pickled, it is empty: values are made again where they are needed."""
        return LruCache, (self._max_count,)

    def get(self, key: Hashable, make: Callable[[], _T]) -> _T:
        """The value of a key, made now unless it is at hand."""
        with self._lock:
            if key not in self._values:
                self._values[key] = make()
            self._values.move_to_end(key)
            while len(self._values) > self._max_count:
                self._values.popitem(last=False)
            value: _T = self._values[key]
            return value
