"""Where training keeps its downloads, prepared pictures and checkpoints."""

from __future__ import annotations

import os
from pathlib import Path

MODELS = Path("src/wamplex/models")  # where the shipped networks lie, below the project's folder
KEPT = Path("training/kept")  # weights of networks that are on their way


def default_work_dir() -> Path:
    """Folder from ``WAMPLEX_TRAINING_DIR``, else the user's cache folder."""
    from_env = os.environ.get("WAMPLEX_TRAINING_DIR")
    if from_env:
        return Path(from_env)
    cache = os.environ.get("XDG_CACHE_HOME", str(Path.home() / ".cache"))
    return Path(cache) / "wamplex-training"


def checkpoint_path(work: Path, family: str) -> Path:
    """Checkpoint of one family."""
    return work / "checkpoints" / f"{family}.pt"


def prepared_dir(work: Path) -> Path:
    """Folder of the pictures that are learned from."""
    return work / "prepared"


def held_out_dir(work: Path) -> Path:
    """Folder of the drawings and pages that are only measured on."""
    return work / "held-out"
