"""Averages the weights of a checkpoint with those that ship.

What learned on from the same weights lies close enough for that, and the mean is often as good as the better
of both in all that either is good at (Wortsman et al. 2022, "Model soups").
"""

from __future__ import annotations

from pathlib import Path

import torch

from training.families import Family
from training.places import MODELS, checkpoint_path
from training.shipped import shipped_weights


def average(work: Path, family: Family, *, share: float = 0.5, models: Path = MODELS) -> None:
    """Replace the checkpoint's weights by ``share`` of themselves and the rest of the shipped ones."""
    path = checkpoint_path(work, family.name)
    state = torch.load(path, weights_only=True)
    shipped = shipped_weights(family, models)[0].state_dict()
    state["network"] = {key: shipped[key].lerp(new, share) for key, new in state["network"].items()}
    torch.save(state, path)
