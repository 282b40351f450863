"""Keeps the training of Kestrel in the repository, in parts below four million bytes, to resume on another machine."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import torch

from training.places import KEPT, checkpoint_path

MAX_BYTES = 4_000_000


def keep(work: Path, factor: int, folder: Path = KEPT) -> list[Path]:
    """Write the weights in half precision, and the state of the optimiser with 16 bits a number.

    The second moments of Adam are too small for half precision; bfloat16 has their range.
    """
    state = torch.load(checkpoint_path(work, f"kestrel-{factor}x"), weights_only=True)
    weights = {part: _converted(state[part], torch.float16) for part in ("network", "average")}
    counts = {name: state[name] for name in ("steps", "minutes")}
    optimiser = {
        "state": {key: _converted(entry, torch.bfloat16) for key, entry in state["optimizer"]["state"].items()},
        "param_groups": state["optimizer"]["param_groups"],
    }
    folder.mkdir(parents=True, exist_ok=True)
    paths = [folder / f"kestrel-{factor}x.pt", folder / f"kestrel-{factor}x-optimiser.pt"]
    for path, content in zip(paths, ({**weights, **counts}, optimiser), strict=True):
        torch.save(content, path)
        if path.stat().st_size >= MAX_BYTES:
            raise SystemExit(f"{path.name} is too large to be kept in one file")
    return paths


def kept_state(factor: int, folder: Path = KEPT) -> dict[str, Any] | None:
    """The kept training as a checkpoint; None where none is kept."""
    paths = [folder / f"kestrel-{factor}x.pt", folder / f"kestrel-{factor}x-optimiser.pt"]
    if not all(path.exists() for path in paths):
        return None
    weights, optimiser = (torch.load(path, weights_only=True) for path in paths)
    wide = {part: _converted(weights[part], torch.float32) for part in ("network", "average")}
    state = {key: _converted(entry, torch.float32) for key, entry in optimiser["state"].items()}
    counts = {name: weights[name] for name in ("steps", "minutes")}
    return {**wide, **counts, "optimizer": {"state": state, "param_groups": optimiser["param_groups"]}}


def _converted(tensors: dict[str, Any], kind: torch.dtype) -> dict[str, Any]:
    """Tensors of numbers in another precision; the step count of Adam stays exact."""
    return {
        name: value.to(kind) if torch.is_tensor(value) and value.dim() > 0 and value.is_floating_point() else value
        for name, value in tensors.items()
    }
