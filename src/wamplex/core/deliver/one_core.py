"""Keeps matrix products to one core while the encoder has the other."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache

from threadpoolctl import ThreadpoolController, threadpool_limits

_lock = threading.Lock()
_limits: list[threadpool_limits] = []  # one, as long as anybody asks for it
_asking = 0


@contextmanager
def one_core_for_products() -> Iterator[None]:
    """NumPy's own threads stand still: waiting for both cores, products would take four times as long.

    Files that are made at the same time share one limit, which the last one lifts: each by itself would take
    the other's limit for what was before.
    """
    global _asking
    with _lock:
        if _asking == 0:
            _limits.append(_threads().limit(limits=1))
        _asking += 1
    try:
        yield
    finally:
        with _lock:
            _asking -= 1
            if _asking == 0:
                _limits.pop().restore_original_limits()


@cache
def _threads() -> ThreadpoolController:
    """Looking for them may hold up the window for 50 ms, so once."""
    return ThreadpoolController().select(user_api="blas")
