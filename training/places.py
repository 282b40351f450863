"""Where training keeps its downloads, prepared pictures and checkpoints."""

from __future__ import annotations

import os
from pathlib import Path


def default_work_dir() -> Path:
    """Folder from ``WAMPLEX_TRAINING_DIR``, else the user's cache folder."""
    from_env = os.environ.get("WAMPLEX_TRAINING_DIR")
    if from_env:
        return Path(from_env)
    cache = os.environ.get("XDG_CACHE_HOME", str(Path.home() / ".cache"))
    return Path(cache) / "wamplex-training"


def checkpoint_path(work: Path, grade: str) -> Path:
    """Checkpoint of the Vellum network of one grade."""
    return work / "checkpoints" / f"vellum-{grade}.pt"
