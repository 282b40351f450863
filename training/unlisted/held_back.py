"""Which truths the judge never learns from, so that it can be measured on them."""

from __future__ import annotations

import hashlib

_SHARE = 0.15


def is_held_back(source: str) -> bool:
    """Whether a truth is kept from training; always the same for a name, so that none is on both sides."""
    return int(hashlib.sha256(source.encode()).hexdigest()[:8], 16) / 2**32 < _SHARE
