"""What is known of each network that ships: how it is fed, how far it sees, what it takes.

``models/manifest.json`` is written by ``python -m training manifest`` beside the networks.
"""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from wamplex.core.base.resources import MODELS_DIR

# What a single run may take, about. Large tiles lose little to their halo; beyond these, memory runs short
# where several are under way, and a layer of so many pixels cannot be interrupted within 0.2 s.
_RUN_BYTES = 450_000_000
_MOST_PX = 900_000


@dataclass(frozen=True)
class NetworkFile:
    """One ONNX file.

    Attributes
    ----------
    factor : native enlargement
    halo : source pixels on each side that influence an output pixel
    cells : side in source pixels of the squares that it works on
    inputs : channels it is given
    bytes_per_px : what a source pixel takes at the peak of a run
    digest : SHA-256 of the file
    """

    name: str
    factor: int
    halo: int
    cells: int
    inputs: int
    bytes_per_px: int
    digest: str

    @property
    def path(self) -> Path:
        """Path of the file."""
        return MODELS_DIR / self.name

    @property
    def tile_px(self) -> int:
        """Most source pixels it is given at a time, halo included."""
        return min(_RUN_BYTES // self.bytes_per_px, _MOST_PX)


@lru_cache(maxsize=1)
def _manifest() -> dict[str, NetworkFile]:
    networks = json.loads((MODELS_DIR / "manifest.json").read_text())["networks"]
    return {name: NetworkFile(name, **entry) for name, entry in networks.items()}


@lru_cache(maxsize=1)
def networks_digest() -> str:
    """SHA-256 of what is known of all of them, their own digests included, in hexadecimal."""
    return hashlib.sha256((MODELS_DIR / "manifest.json").read_bytes()).hexdigest()


def network_file(name: str) -> NetworkFile:
    """Manifest entry of a shipped network.

    Raises
    ------
    KeyError : when none of this name does
    """
    return _manifest()[name]
