"""Checkpoints that are worth keeping but not yet shipped: weights in half precision, in the repository."""

from __future__ import annotations

from pathlib import Path

import torch

from training.families import Family
from training.places import KEPT, checkpoint_path

_MOST_BYTES = 4_000_000


def keep(work: Path, family: Family, folder: Path = KEPT) -> Path:
    """Write a family's weights from its checkpoint, with the steps and minutes they took."""
    state = torch.load(checkpoint_path(work, family.name), weights_only=True)
    halved = {name: w.half() if w.is_floating_point() else w for name, w in state["network"].items()}
    minutes = state["minutes"] + state["used_s"] / 60
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"{family.name}.pt"
    torch.save({"network": halved, "steps": state["steps"], "minutes": minutes}, path)
    if path.stat().st_size >= _MOST_BYTES:
        path.unlink()
        raise SystemExit(f"{family.name} is too large to be kept in one file")
    return path


def kept_weights(family: Family, folder: Path = KEPT) -> tuple[dict[str, torch.Tensor], int, float] | None:
    """The kept weights of a family, their steps and minutes; None where none were kept."""
    path = folder / f"{family.name}.pt"
    if not path.exists():
        return None
    state = torch.load(path, weights_only=True)
    wide = {name: w.float() if w.is_floating_point() else w for name, w in state["network"].items()}
    return wide, state["steps"], state["minutes"]
