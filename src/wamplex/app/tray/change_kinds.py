"""The kinds of change of a tray entry."""

from __future__ import annotations

from typing import Literal

# Its file and what is known of it, or something that was decided.
ChangeKind = Literal[
    "file",
    "thumbnail",
    "notices",
    "made",
    "measured",
    "development",
    "framing",
    "size",
    "sheet",
    "distance",
    "spots",
    "trials",
    "finish",
    "look",
]
