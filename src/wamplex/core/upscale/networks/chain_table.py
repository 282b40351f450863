"""Which passes reach which factor best: a measured table that ships as data.

``models/chains.json`` lists, for each learned upscaler, ranges of factors with their passes, as
``python -m training chains`` measured them on held-out pictures.
"""

from __future__ import annotations

import json
from functools import lru_cache

from wamplex.core.base.resources import MODELS_DIR

_TABLE = MODELS_DIR / "chains.json"


@lru_cache(maxsize=1)
def _table() -> dict[str, list[tuple[float, tuple[int, ...]]]]:
    if not _TABLE.exists():
        return {}
    rows = json.loads(_TABLE.read_text())["chains"]
    return {key: [(row["up_to"], tuple(row["passes"])) for row in ranges] for key, ranges in rows.items()}


def measured_chain(key: str, factor: float) -> tuple[int, ...] | None:
    """Native factors to run in turn for an enlargement by ``factor``; None where nothing was measured."""
    for up_to, passes in _table().get(key, ()):
        if factor <= up_to + 1e-9:
            return passes
    return None
